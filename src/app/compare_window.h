// Side by side: one design under two duties, or two designs under one, as a table and as overlaid traces.
#pragma once
#include "app/model/session.h"
#include "design/revisions.h"
#include "schedule/compare.h"
#include <QDialog>
#include <qcustomplot.h>

class QComboBox;
class QLabel;
class QTableWidget;

namespace ng::app {

class CompareWindow : public QDialog {
    Q_OBJECT
  public:
    CompareWindow(Session& session, QWidget* parent);
    /// Chooses and runs: indices into the job's designs, "" or "standard/class" for the duty.
    void show_pair(int left_design, const QString& left_duty, int right_design, const QString& right_duty);
    QTableWidget* table() { return table_; }
    QComboBox* design_choice(bool left) { return sides_[left ? 0 : 1].design; }
    bool is_running() const { return worker_.is_running(); }

  signals:
    void compared();

  private:
    struct Side {
        QComboBox *design, *duty;
    };
    struct Judged {
        QString name;
        std::shared_ptr<const PreparedDesign> prepared;
        Solution solution;
        Schedule schedule;
    };
    void fill_choices();
    void refill(); ///< what can be chosen has changed: what was chosen stays
    Result<DesignState> shown_state(const QString& key) const;
    void run();
    void show_result(const std::shared_ptr<const Judged>& left, const std::shared_ptr<const Judged>& right);
    void fill_table();
    void draw_traces();
    void add_trace(const Judged& side, const std::string& path, bool left);

    Session& session_;
    Side sides_[2];
    QLabel* state_;
    QTableWidget* table_;
    QComboBox* path_;
    QCustomPlot* plot_;
    Worker worker_;
    std::shared_ptr<const Judged> left_, right_;
    int run_ = 0;
};

} // namespace ng::app
