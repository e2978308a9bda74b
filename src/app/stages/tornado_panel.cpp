#include "app/stages/tornado_panel.h"
#include "app/model/text.h"
#include "app/model/time_left.h"
#include "app/stages/page.h"
#include "draw/tornado_picture.h"
#include "fault/fault.h"
#include "io/file.h"
#include <QFileDialog>
#include <QPainter>
#include <QVBoxLayout>

namespace ng::app {
namespace {
constexpr std::size_t most_bars = 12;
}

class TornadoPanel::Picture : public QWidget {
  public:
    explicit Picture(TornadoPanel& panel) : QWidget(&panel), panel_(panel) { setFixedHeight(0); }

  protected:
    void paintEvent(QPaintEvent*) override {
        if (!panel_.shown_) return;
        QPainter painter(this);
        const auto& theme = panel_.session_.theme();
        painter.fillRect(rect(), theme.panel);
        draw::paint_tornado(painter, rect(), panel_.shown_->plan, panel_.shown_->tornado, most_bars, theme,
                            8);
    }

  private:
    TornadoPanel& panel_;
};

TornadoPanel::TornadoPanel(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), worker_(this) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* button = new QPushButton("One at a time");
    save_ = new QPushButton("Save…");
    save_->setToolTip("As a drawing (SVG) or a table (CSV)");
    save_->setEnabled(false);
    cancel_ = add_run_row(column, {button, save_});
    words_ = new QLabel(
        "Each quantity by itself to both ends of its tolerance, all else as designed: which of them "
        "the nearest limit hangs on.");
    words_->setWordWrap(true);
    words_->setProperty("faint", true);
    column->addWidget(words_);
    picture_ = new Picture(*this);
    column->addWidget(picture_);
    connect(button, &QPushButton::clicked, this, &TornadoPanel::run);
    connect(save_, &QPushButton::clicked, this, [this] {
        const auto path = QFileDialog::getSaveFileName(this, "Save what moves it most", "one-at-a-time.svg",
                                                       "Drawing (*.svg);;Table (*.csv)");
        if (path.isEmpty()) return;
        if (auto ok = save(path); !ok) session_.tell(ok.error());
    });
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
    connect(&session, &Session::prepared_changed, this, &TornadoPanel::refresh);
    connect(&session, &Session::look_changed, picture_, qOverload<>(&QWidget::update));
}

void TornadoPanel::show_shown(std::shared_ptr<const Shown> shown) {
    shown_ = std::move(shown);
    const auto bars = shown_ ? std::min(most_bars, shown_->tornado.swings.size()) : 0;
    const QFontMetricsF metrics(draw::ui_font(8));
    picture_->setFixedHeight(bars ? static_cast<int>(draw::tornado_lines(bars) * metrics.height()) : 0);
    picture_->setAccessibleName(bars ? "What moves it most: " +
                                           q(shown_->plan.varied[shown_->tornado.swings.front().varied].label)
                                     : QString());
    save_->setEnabled(bars > 0);
    picture_->update();
}

void TornadoPanel::refresh() {
    if (of_.empty() || of_ == session_.judged_text()) return;
    of_.clear();
    worker_.cancel();
    ++run_;
    cancel_->hide();
    show_shown(nullptr);
    words_->setText("The design has changed: look again.");
}

void TornadoPanel::run() {
    if (!session_.prepared()) return;
    const int run = ++run_;
    of_ = session_.judged_text();
    cancel_->show();
    words_->setText("Solving both ends of each…");
    auto plan = usual_plan(*session_.prepared());
    plan.with_faults = session_.with_faults();
    worker_.start([this, run, plan, job = session_.document.job(),
                   library = session_.library()](const CancelFlag& cancel) {
        auto study = Study::begin(job, plan, library, preparer(plan.with_faults), &cancel);
        const TimeLeft left;
        const auto tell = [&](int done, int all) {
            QMetaObject::invokeMethod(
                this,
                [this, run, words = QString("%1 of %2 solved").arg(done).arg(all) + left.after(done, all)] {
                    if (run == run_) words_->setText(words);
                });
        };
        auto tornado =
            study ? one_at_a_time(*study, &cancel, tell) : Result<Tornado>(tl::unexpected(study.error()));
        if (cancel) return;
        std::shared_ptr<const Shown> shown;
        if (tornado) shown = std::make_shared<const Shown>(Shown{study->plan(), std::move(*tornado)});
        const auto why = tornado ? QString() : q(tornado.error().message());
        QMetaObject::invokeMethod(this, [this, run, shown, why] {
            if (run != run_) return;
            cancel_->hide();
            show_shown(shown);
            words_->setText(
                shown
                    ? QString("Share of the limit of the check that is nearest to it. Dark: the upper end of "
                              "the tolerance, light: the lower; hatched: beyond the limit; open: cannot be "
                              "built.")
                    : why);
            emit finished();
        });
    });
}

Result<void> TornadoPanel::save(const QString& path) const {
    if (!shown_) return refuse("What moves it most", "nothing is solved yet", "Solve it first");
    if (path.endsWith(".csv"))
        return write_output(path.toStdString(), tornado_csv(shown_->plan, shown_->tornado));
    return draw::write_tornado_svg(shown_->plan, shown_->tornado,
                                   session_.document.design().title + ": what moves it most",
                                   path.toStdString());
}

} // namespace ng::app
