// Thousands of builds of the design within its tolerances, as a histogram of how near each comes to a limit.
#pragma once
#include "app/stages/study_panel.h"
#include "study/study.h"

namespace ng::app {

class BuildsPanel : public StudyPanel {
    Q_OBJECT
  public:
    BuildsPanel(Session& session, QWidget* parent);
    const std::vector<double>& shares() const { return shares_; } ///< of each build that could be made
    void set_samples(int index) { samples_->setCurrentIndex(index); }
    void open_worst(); ///< as a design of its own, one step to undo
    /// The drawing, or the rows as “study” writes them.
    Result<void> save(const QString& path) const override;

  protected:
    std::string solved_of() const override { return session_.varied_hash(); }
    Solve solve() override;
    void forget() override;
    void paint(QPainter& painter, const QRectF& place) override;

  private:
    QComboBox* samples_;
    QPushButton* worst_button_;
    std::vector<double> shares_;
    std::string rows_; ///< as a file holds them
    std::optional<Job> worst_;
};

} // namespace ng::app
