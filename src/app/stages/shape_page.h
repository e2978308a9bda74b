#pragma once
#include "app/model/optimiser.h"
#include "app/stages/page.h"
#include "shape/aids.h"
#include <QCheckBox>
#include <QProgressBar>
#include <QPushButton>
#include <QTableWidget>
#include <qcustomplot.h>

namespace ng::app {

/// Stage Shape aids: closed-form proposals, and the best shape by the field itself.
class ShapePage : public Page {
    Q_OBJECT
  public:
    ShapePage(Session& session, QWidget* parent);
    const std::vector<Aid>& aids() const { return aids_; }
    void choose(int index);
    void take_over_chosen();
    /// The search: rows of parameter and bounds, for tests and for the buttons.
    bool set_dimension(int row, const std::string& key, double lowest, double highest);
    /// Fills the rows with up to four of these dimensions, 30 % either way, and looks for the least value of
    /// this check at which all hold.
    void search_for(const CheckId& check, const std::vector<std::string>& keys);
    void start();
    Optimiser& optimiser() { return optimiser_; }
    QString outcome() const { return outcome_->text(); }

  private:
    void make_aids();
    void make_search();
    void refresh();
    void show_chosen();
    void fill_parameters();
    void save(const QString& kind);
    void draw_path();
    /// Puts the dimension into a row, within 30 % of what it is and within what the family allows.
    void take_dimension(int row, const std::string& key);
    void show_result(const OptimiseResult& result);
    void hideEvent(QHideEvent* event) override;
    void showEvent(QShowEvent* event) override;

    AidLimits limits_;
    std::vector<Aid> aids_;
    QComboBox* which_;
    QLabel *answer_, *formula_, *outcome_;
    QTableWidget* table_;
    QPushButton *take_, *csv_, *dxf_, *svg_;

    struct Row {
        QComboBox* parameter = nullptr;
        QuantityEdit *lowest = nullptr, *highest = nullptr;
        double low = 0, high = 0;
    };
    std::vector<Row> rows_;
    std::vector<std::string> parameter_keys_;
    std::vector<std::optional<CheckId>> checks_; ///< in the order of the objective's list; none: the length
    std::string filled_family_;
    QComboBox* objective_;
    QPushButton *start_, *take_best_;
    QProgressBar* progress_;
    QCustomPlot* plot_;
    Optimiser optimiser_;
    std::vector<OptimiseStep> path_;
    OptimiseRequest request_;
    std::optional<OptimiseStep> best_;
    qint64 began_ms_ = 0;
};

} // namespace ng::app
