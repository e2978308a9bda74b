// Pictures of faults: sizes that hurt beside sizes that hands find, and one fault at its true shape.
#pragma once
#include "app/model/session.h"
#include "fault/answer.h"
#include <QWidget>

namespace ng::app {

/// "0.3 mm", "no size".
QString size_words(double mm);

/// What a scan found of one kind on one side.
struct FaultRow {
    Fault fault;
    std::optional<CriticalSize> critical; ///< none: it does not fit
    std::string why;                      ///< what fails first, or why it does not fit
};

/// One bar a fault on a log axis of sizes, from what hands find to what hurts; the worst first. Room between
/// them is a filled bar, none a hatched one with its word: colour alone says nothing.
class FaultBars : public QWidget {
    Q_OBJECT
  public:
    FaultBars(Session& session, QWidget* parent);
    void show_rows(std::vector<FaultRow> rows);
    const std::vector<FaultRow>& rows() const { return rows_; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Session& session_;
    std::vector<FaultRow> rows_;
};

/// The place of a fault at its true shape: one scale along and across, with a scale bar.
class FaultInset : public QWidget {
    Q_OBJECT
  public:
    FaultInset(Session& session, QWidget* parent);
    /// Shows the design with this fault on it, or why it does not fit.
    void show_fault(const Fault& fault);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    void prepare();
    Session& session_;
    Fault fault_;
    bool stale_ = true; ///< prepared when it is painted: nobody looks while another stage is open
    std::optional<FaultyDesign> design_;
    QString words_;
    bool is_rule_ = false;
};

} // namespace ng::app
