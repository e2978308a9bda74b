#pragma once
#include "app/stages/page.h"
#include "app/stages/verdict_rows.h"
#include <QProgressBar>
#include <QPushButton>

namespace ng::app {

/// Stage Verdict: does it hold, and why: the checks that follow the hand, then the whole test schedule.
class VerdictPage : public Page {
    Q_OBJECT
  public:
    VerdictPage(Session& session, QWidget* parent);
    QList<VerdictRow*> rows() const { return rows_; }
    void open_row(int index);
    QList<TestRow*> test_rows() const { return test_rows_; }
    /// Opens a test by id, and a check in it by id (empty: none).
    /// None: no test is open; of the open one no check.
    void open_test(const std::optional<TestId>& test, const std::optional<CheckId>& check = {});

  signals:
    void wants_help(QString about);
    /// The search over several dimensions for the least of a check.
    void wants_search(ng::CheckId check, std::vector<std::string> keys);

  private:
    void refresh();
    void refresh_checks();
    void refresh_schedule();
    void fill_open_test();
    void show_detail(int index);
    QString in_unit(const QString& words) const; ///< figures of field strength in the unit that is shown
    QString detail_text(const Check& check) const;
    /// "What does it hang on": asked for by a link, answered in place.
    QString why_text(const Check& check) const;
    QLabel* make_detail();
    void follow_link(const QString& link);

    QLabel *overall_, *reason_, *compared_, *statements_, *schedule_state_, *schedule_notes_;
    QProgressBar* progress_;
    QPushButton* run_;
    QVBoxLayout *list_, *tests_;
    QList<VerdictRow*> rows_;
    QList<QLabel*> details_;
    int open_ = -1;
    QList<TestRow*> test_rows_;
    QWidget* open_test_body_ = nullptr;
    std::optional<TestId> open_test_;
    std::optional<CheckId> open_check_;
};

} // namespace ng::app
