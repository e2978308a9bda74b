#include "app/stages/exercise_pictures.h"
#include "app/model/text.h"
#include "app/stages/touch.h"
#include "draw/stage_drawing.h"
#include "plan/whole_end.h"
#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>

namespace ng::app {

ExercisePicture::ExercisePicture(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setFixedHeight(190);
    setAccessibleName("The accessory as it was designed");
    connect(&session, &Session::look_changed, this, qOverload<>(&QWidget::update));
}

void ExercisePicture::show_design(const Job& job, const std::string& design) {
    prepared_.reset();
    plan_.reset();
    if (auto prepared = prepare_design(job, design, session_.library())) {
        if (auto plan = make_plan(*prepared)) plan_ = std::move(*plan);
        prepared_ = std::move(*prepared);
    }
    update();
}

void ExercisePicture::paintEvent(QPaintEvent*) {
    if (!prepared_ || !plan_) return;
    QPainter painter(this);
    painter.fillRect(rect(), session_.theme().paper);
    auto step = finished(*prepared_, *plan_);
    step.shown.clear(); // its marks are not what is asked
    draw::paint_stage(painter, QRectF(rect()).adjusted(2, 2, -2, -2), *prepared_, *plan_, step,
                      session_.theme());
}

SeeingView::SeeingView(QWidget* parent) : QWidget(parent) {
    new QVBoxLayout(this);
}

void SeeingView::show_all(const std::vector<Trainee::Seeing>& seeing) {
    auto* column = qobject_cast<QVBoxLayout*>(layout());
    while (auto* item = column->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    for (const auto& s : seeing) {
        auto* box = new QWidget;
        auto* rows = new QVBoxLayout(box);
        rows->setContentsMargins(0, 6, 0, 6);
        auto* head = large_label(12, true);
        head->setText(q(upper_first(fault_words(s.fault))));
        rows->addWidget(head);
        if (!s.without.isNull() || !s.with.isNull()) {
            auto* pair = new QHBoxLayout;
            for (const auto& [image, words] :
                 {std::pair{&s.without, "without it"}, std::pair{&s.with, "with it"}}) {
                auto* one = new QVBoxLayout;
                auto* picture = new QLabel;
                auto pixmap = QPixmap::fromImage(*image);
                pixmap.setDevicePixelRatio(2);
                picture->setPixmap(pixmap);
                picture->setAccessibleName(QString("Field %1, at its true shape").arg(words));
                auto* below = large_label(9.5);
                below->setText(words);
                one->addWidget(picture);
                one->addWidget(below);
                pair->addLayout(one);
            }
            pair->addStretch();
            rows->addLayout(pair);
        }
        auto* checks = large_label(10.5);
        checks->setText(s.checks + "\n" + s.critical);
        rows->addWidget(checks);
        column->addWidget(box);
    }
}

} // namespace ng::app
