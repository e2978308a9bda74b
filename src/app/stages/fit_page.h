#pragma once
#include "app/model/instrument_port.h"
#include "app/stages/card_row.h"
#include "app/stages/page.h"
#include <QPushButton>

namespace ng::app {

/// One part on what it goes on: mark, words, and the value with its uncertainty on the range. Where the kit
/// table has a size that fits, clicking takes it.
class FitRow : public CardRow {
    Q_OBJECT
  public:
    FitRow(Session& session, QWidget* parent);
    void show_check(const FitCheck& check);
    const FitCheck& check() const { return check_; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    FitCheck check_;
};

/// Stage Fit: caliper readings, parts against their ranges, connector, tape and mastic quantities.
class FitPage : public Page {
    Q_OBJECT
  public:
    FitPage(Session& session, QWidget* parent);
    QList<FitRow*> rows() const { return rows_; }
    InstrumentPort& caliper() { return caliper_; }
    void connect_caliper();
    /// A reading of the layer chosen, as from the keyboard or from the caliper.
    void add_reading(double diameter_mm);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void add_caliper();
    void add_tape();
    void add_tables();
    void connect_readings();
    void choose_connector(int row);
    void refresh();
    void refresh_readings();
    void take_size(const FitCheck& check);
    std::string layer() const;
    void change_cable(const QString& what, const std::function<void(Cable&)>& change);

    InstrumentPort caliper_;
    QComboBox *layer_, *direction_, *connector_, *port_;
    QuantityEdit* reading_;
    QLabel *readings_, *quantities_, *notes_, *caliper_state_;
    QPushButton *listen_, *remove_;
    QVBoxLayout* list_;
    QList<FitRow*> rows_;
    std::map<std::string, QuantityEdit*> tape_;
    std::vector<std::string> connector_ids_;
};

} // namespace ng::app
