// What varies of the design, by what, and on whose word: to be read and to be changed. A change is part of
// the design and touches no field.
#pragma once
#include "app/model/session.h"
#include "study/varied.h"
#include <QDialog>
#include <QListWidget>

class QComboBox;
class QFormLayout;
class QLabel;
class QLineEdit;
class QPushButton;

namespace ng::app {

/// Asks how one quantity varies.
class ToleranceDialog : public QDialog {
    Q_OBJECT
  public:
    ToleranceDialog(const Variable& variable, const std::optional<Tolerance>& now, LengthUnit unit,
                    QWidget* parent);
    /// None: as is usual.
    const std::optional<Tolerance>& tolerance() const { return result_; }

  private:
    void show_law();
    void show_reach(); ///< what the fields say, in words
    Result<Tolerance> typed() const;
    void take();
    Result<double> number_of(const QLineEdit& line, const std::string& item, bool in_unit = true) const;
    QString written(double value, bool in_unit = true) const;
    Variable variable_;
    LengthUnit unit_;
    bool is_length_;
    QComboBox* law_;
    QLineEdit *spread_, *share_, *blunder_, *lowest_, *highest_, *provenance_;
    QFormLayout* form_;
    QLabel *reach_, *problem_;
    std::optional<Tolerance> result_;
};

/// Asks how two quantities move together.
class CorrelationDialog : public QDialog {
    Q_OBJECT
  public:
    /// `keys` with their labels; `now`: what is changed, none: a new one.
    CorrelationDialog(std::vector<std::pair<std::string, std::string>> keys, const Correlated* now,
                      QWidget* parent);
    /// None: they do not.
    const std::optional<Correlated>& correlated() const { return result_; }

  private:
    void take();
    std::vector<std::pair<std::string, std::string>> keys_;
    QComboBox *a_, *b_;
    QLineEdit *rho_, *provenance_;
    QLabel* problem_;
    std::optional<Correlated> result_;
};

class ToleranceEditor : public QWidget {
    Q_OBJECT
  public:
    ToleranceEditor(Session& session, QWidget* parent);
    void refresh();
    const QListWidget* list() const { return list_; }
    /// As the dialogs end, one step to undo each.
    void set_tolerance(const std::string& key, const std::optional<Tolerance>& tolerance);
    /// `number`: of those the design has; past its end: a new one.
    void set_correlation(std::size_t number, const std::optional<Correlated>& correlated);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void change(); ///< the row that is chosen
    void vary_more();
    void join();
    void ask_tolerance(const Variable& variable);
    void ask_correlation(std::size_t number);
    std::vector<std::pair<std::string, std::string>> varying() const; ///< keys and labels
    Session& session_;
    QListWidget* list_;
    QPushButton *change_, *join_;
    QComboBox* more_;
    QLabel *sources_, *problem_;
    std::vector<Variable> variables_;
    std::vector<std::size_t> more_of_; ///< by row of the box, numbers of `variables_`
};

} // namespace ng::app
