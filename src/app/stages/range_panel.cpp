#include "app/stages/range_panel.h"
#include "app/model/text.h"
#include "app/model/time_left.h"
#include "app/stages/page.h"
#include "draw/range_picture.h"
#include <QPainter>
#include <QVBoxLayout>

namespace ng::app {

class RangePanel::Picture : public QWidget {
  public:
    explicit Picture(RangePanel& panel) : QWidget(&panel), panel_(panel) { setFixedHeight(0); }

  protected:
    void paintEvent(QPaintEvent*) override {
        if (!panel_.map_) return;
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        draw::paint_range(painter, rect(), *panel_.map_, panel_.session_.theme(), 7.5);
    }

  private:
    RangePanel& panel_;
};

RangePanel::RangePanel(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* button = new QPushButton("Map the range");
    cancel_ = add_run_row(column, {button});
    words_ = new QLabel(
        "The same design on thicker and thinner cables: where its kit serves, and which cable a type "
        "test should be made on.");
    words_->setWordWrap(true);
    words_->setProperty("faint", true);
    column->addWidget(words_);
    picture_ = new Picture(*this);
    column->addWidget(picture_);
    connect(button, &QPushButton::clicked, this, &RangePanel::run);
    connect(cancel_, &QPushButton::clicked, this, [this] {
        worker_.cancel();
        ++run_;
        cancel_->hide();
        words_->setText("Cancelled.");
    });
    connect(&worker_, &Worker::failed, this, [this](const QString& why) {
        words_->setText(why);
        cancel_->hide();
    });
    connect(&session, &Session::prepared_changed, this, &RangePanel::refresh);
    connect(&session, &Session::look_changed, picture_, qOverload<>(&QWidget::update));
}

void RangePanel::refresh() {
    if (of_.empty() || of_ == session_.design_text()) return;
    of_.clear();
    worker_.cancel();
    ++run_;
    cancel_->hide();
    map_.reset();
    picture_->setFixedHeight(0);
    words_->setText("The design has changed: map it again.");
}

void RangePanel::run() {
    if (!session_.prepared()) return;
    const int run = ++run_;
    of_ = session_.design_text();
    cancel_->show();
    words_->setText("Solving the first cables…");
    worker_.start([this, run, grid = usual_range(*session_.prepared()), job = session_.document.job(),
                   id = session_.document.design().id,
                   library = session_.library()](const CancelFlag& cancel) {
        const TimeLeft left;
        auto map = map_range(job, id, library, grid, &cancel, [&](int done, int all) {
            const auto words = QString("%1 of %2 cables solved").arg(done).arg(all) + left.after(done, all);
            QMetaObject::invokeMethod(this, [this, run, words] {
                if (run == run_) words_->setText(words);
            });
        });
        if (cancel) return;
        QMetaObject::invokeMethod(this, [this, run, map = std::move(map)]() mutable {
            if (run != run_) return;
            cancel_->hide();
            if (map) {
                words_->setText(
                    q(range_words(*map)) +
                    ". Numbers: % of the limit. Hatched: falls short. –: the kit does not fit. ·: cannot "
                    "be built. Framed: to type-test.");
                map_ = std::move(*map);
                picture_->setFixedHeight(300);
                picture_->setAccessibleName("Map of the range: " + q(range_words(*map_)));
                picture_->update();
            } else {
                words_->setText(q(map.error().message()));
            }
            emit finished();
        });
    });
}

} // namespace ng::app
