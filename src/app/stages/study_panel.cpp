#include "app/stages/study_panel.h"
#include "app/model/text.h"
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
    running_ = add_run_row(column, {button, save_}, worker_);
    save_->setHidden(said_.file.isEmpty());
    words_ = new QLabel(said_.about);
    words_->setWordWrap(true);
    words_->setProperty("faint", true);
    words_->setTextInteractionFlags(Qt::TextSelectableByMouse);
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
    connect(running_.cancel, &QPushButton::clicked, this, [this] { stop("Cancelled."); });
    connect(running_.pause, &QPushButton::clicked, this, [this] {
        const bool waits = worker_.is_paused();
        if (waits)
            say(done_.second ? "Paused: " + said_.progress.arg(done_.first).arg(done_.second) : "Paused.");
        else
            say("Going on…");
    });
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

Result<void> StudyPanel::save(const QString&) const {
    return refuse(said_.button.toStdString(), "what it finds is no file of its own",
                  "Read it here, or save the job");
}

QString StudyPanel::said() const {
    return words_->text().replace(QChar(0x00a0), ' ').remove(QChar(0x2060));
}

void StudyPanel::say(const QString& state) {
    words_->setText(unbroken(state + (state.isEmpty() || found_.isEmpty() ? "" : "\n") + found_));
}

void StudyPanel::tell(int done, int all) {
    if (!left_) left_.emplace(&worker_, done);
    done_ = {done, all};
    if (!worker_.is_paused()) say(said_.progress.arg(done).arg(all) + left_->after(done, all));
}

void StudyPanel::stop(const QString& words) {
    worker_.cancel();
    ++run_;
    running_.hide();
    say(words);
}

void StudyPanel::refresh() {
    if (of_.empty() || of_ == solved_of()) return;
    of_.clear();
    found_.clear();
    stop("The design has changed: " + said_.again + ".");
    forget();
    show_picture(0, {});
}

void StudyPanel::run() {
    if (!session_.prepared()) return;
    const int run = ++run_;
    of_ = solved_of();
    running_.show();
    found_.clear();
    left_.reset();
    done_ = {};
    say(said_.first);
    worker_.start([this, run, solve = solve()](const CancelFlag& cancel) {
        const auto here = [this, run](auto then) {
            worker_.hand_over([this, run, then = std::move(then)] {
                if (run == run_) then();
            });
        };
        Progress progress;
        progress.tell = [this, here](int done, int all) { here([this, done, all] { tell(done, all); }); };
        progress.found = [this, here](Show show) {
            here([this, show = std::move(show)] {
                found_ = show();
                if (done_.second)
                    tell(done_.first, done_.second);
                else
                    say(said_.first);
            });
        };
        auto found = solve(cancel, progress);
        if (cancel) return;
        here([this, found = std::move(found)] {
            running_.hide();
            found_ = found ? (*found)() : q(found.error().message());
            say({});
            emit finished();
        });
    });
}

} // namespace ng::app
