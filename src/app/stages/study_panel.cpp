#include "app/stages/study_panel.h"
#include "app/model/text.h"
#include "app/model/time_left.h"
#include "app/stages/page.h"
#include <QFileDialog>
#include <QPainter>
#include <QVBoxLayout>

namespace ng::app {

class StudyPanel::Picture : public QWidget {
  public:
    explicit Picture(StudyPanel& panel) : QWidget(&panel), panel_(panel) { setFixedHeight(0); }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        panel_.paint(painter, rect());
    }

  private:
    StudyPanel& panel_;
};

StudyPanel::StudyPanel(Session& session, Words words, QWidget* parent)
    : QWidget(parent), session_(session), said_(std::move(words)), worker_(this) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* button = new QPushButton(said_.button);
    save_ = new QPushButton("Save…");
    save_->setToolTip("As a drawing (SVG) or a table (CSV)");
    save_->setEnabled(false);
    cancel_ = add_run_row(column, {button, save_});
    words_ = new QLabel(said_.about);
    words_->setWordWrap(true);
    words_->setProperty("faint", true);
    column->addWidget(words_);
    picture_ = new Picture(*this);
    column->addWidget(picture_);
    connect(button, &QPushButton::clicked, this, &StudyPanel::run);
    connect(save_, &QPushButton::clicked, this, [this] {
        const auto path = QFileDialog::getSaveFileName(this, "Save the study", said_.file + ".svg",
                                                       "Drawing (*.svg);;Table (*.csv)");
        if (path.isEmpty()) return;
        if (auto ok = save(path); !ok) session_.tell(ok.error());
    });
    connect(cancel_, &QPushButton::clicked, this, [this] { stop("Cancelled."); });
    connect(&worker_, &Worker::failed, this, &StudyPanel::stop);
    connect(&session, &Session::prepared_changed, this, &StudyPanel::refresh);
    connect(&session, &Session::look_changed, picture_, qOverload<>(&QWidget::update));
}

void StudyPanel::show_picture(int height_px, const QString& name) {
    picture_->setFixedHeight(height_px);
    picture_->setAccessibleName(name);
    picture_->update();
    save_->setEnabled(height_px > 0);
}

void StudyPanel::stop(const QString& words) {
    worker_.cancel();
    ++run_;
    cancel_->hide();
    words_->setText(words);
}

void StudyPanel::refresh() {
    if (of_.empty() || of_ == solved_of()) return;
    of_.clear();
    stop("The design has changed: " + said_.again + ".");
    forget();
    show_picture(0, {});
}

void StudyPanel::run() {
    if (!session_.prepared()) return;
    const int run = ++run_;
    of_ = solved_of();
    cancel_->show();
    words_->setText(said_.first);
    worker_.start([this, run, solve = solve(), progress = said_.progress](const CancelFlag& cancel) {
        const TimeLeft left;
        auto found = solve(cancel, [&](int done, int all) {
            const auto words = progress.arg(done).arg(all) + left.after(done, all);
            QMetaObject::invokeMethod(this, [this, run, words] {
                if (run == run_) words_->setText(words);
            });
        });
        if (cancel) return;
        QMetaObject::invokeMethod(this, [this, run, found = std::move(found)] {
            if (run != run_) return;
            cancel_->hide();
            words_->setText(found ? (*found)() : q(found.error().message()));
            emit finished();
        });
    });
}

} // namespace ng::app
