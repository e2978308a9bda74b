// The work sheet step by step, to work from: one step with its picture, hold point and timer at a time. It
// writes the record where one is begun; without one, ticks here are no record.
#pragma once
#include "app/stages/record_panel.h"
#include <QCheckBox>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QTimer>
#include <functional>
#include <set>

namespace ng::app {

class StagePictureView : public QWidget {
    Q_OBJECT
  public:
    explicit StagePictureView(Session& session, QWidget* parent = nullptr);
    void show_step(const SheetStep* step);
    void set_wanted_height(int px);
    QSize sizeHint() const override;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    Session& session_;
    std::optional<SheetStep> step_;
};

class StepWindow : public QWidget {
    Q_OBJECT
  public:
    StepWindow(Session& session, Recorder& recorder, QWidget* parent = nullptr);
    void show_step(int index);
    int index() const { return index_; }
    const std::optional<WorkSheet>& sheet() const { return sheet_; }
    /// The firm's own words for the shown step; empty: the book's again.
    void set_own_words(const QString& text);
    void start_timer();
    void stop_timer();
    QString timer_text() const { return timer_label_->text(); }
    /// Milliseconds since some start; a test puts its own.
    void set_clock(std::function<qint64()> clock) { clock_ = std::move(clock); }
    void tick();
    QCheckBox* accepted() { return accepted_; }
    QPushButton* next_button() { return next_; }
    RecordPanel* record_panel() { return record_; }

  signals:
    void timer_ended(QString step);

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void refresh();
    void fill_step();
    void ask_own_words();
    QString list_text(int index) const;
    bool is_closed(const SheetStep& step) const; ///< its hold point
    void begin_record();

    struct Timer {
        qint64 ends_ms = 0;
        QString title;
        bool rung = false;
    };
    Session& session_;
    Recorder& recorder_;
    RecordPanel* record_;
    QLabel* says_;
    std::optional<WorkSheet> sheet_;
    std::string design_;
    int index_ = 0;
    std::set<std::string> ticked_;
    std::map<std::string, Timer> timers_; ///< by step
    std::function<qint64()> clock_;
    QTimer heartbeat_;
    QListWidget* list_;
    QLabel *phase_, *title_, *text_, *caution_, *hold_, *count_, *timer_label_, *running_;
    StagePictureView* picture_;
    QWidget* hold_box_;
    QCheckBox* accepted_;
    QPushButton *back_, *next_, *timer_, *words_;
};

} // namespace ng::app
