// Stage Tolerances: thousands of builds of the design, each mark's window, solved in the background.
#pragma once
#include "app/model/worker.h"
#include "app/stages/duties_panel.h"
#include "app/stages/page.h"
#include "app/stages/range_panel.h"
#include "app/stages/tornado_panel.h"
#include "study/study.h"
#include <QPushButton>

namespace ng::app {

/// How the worst share of a limit is distributed over the builds, with the limit as a line.
class ShareHistogram : public QWidget {
    Q_OBJECT
  public:
    ShareHistogram(Session& session, QWidget* parent);
    void show_shares(std::vector<double> shares);
    const std::vector<double>& shares() const { return shares_; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Session& session_;
    std::vector<double> shares_;
};

class TolerancePage : public Page {
    Q_OBJECT
  public:
    TolerancePage(Session& session, QWidget* parent);
    void run();          ///< the builds
    void find_windows(); ///< of each mark
    void open_worst();   ///< as a design of its own, one step to undo
    const ShareHistogram& histogram() const { return *histogram_; }
    RangePanel& range() { return *range_; }
    DutiesPanel& duties() { return *duties_; }
    TornadoPanel& tornado() { return *tornado_; }
    QString result() const { return result_->text(); }
    void set_samples(int index) { samples_->setCurrentIndex(index); }

  signals:
    void finished();      ///< the builds, to their end
    void windows_found(); ///< of all marks

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void refresh();
    void show_varied();
    void show_table(const StudyTable& table, std::uint64_t asked, double seconds);
    QComboBox* samples_;
    QLabel *result_, *windows_, *varied_;
    QPushButton *cancel_, *worst_button_, *cancel_windows_;
    ShareHistogram* histogram_;
    RangePanel* range_;
    DutiesPanel* duties_;
    TornadoPanel* tornado_;
    std::string of_; ///< the design that the builds belong to
    std::optional<Job> worst_;
    Worker builds_, marks_;
    int run_builds_ = 0, run_marks_ = 0;
};

} // namespace ng::app
