#pragma once
#include "app/stages/page.h"
#include "app/stages/status_line.h"
#include <QTableWidget>

namespace ng::app {

/// Stage Cutbacks: marks from the chosen datum with what each is for, choices about the work, parking, and
/// the template.
class CutbacksPage : public Page {
    Q_OBJECT
  public:
    CutbacksPage(Session& session, QWidget* parent);
    QTableWidget* table() { return table_; }
    QList<StatusLine*> lines() const { return lines_; }
    /// Opens a mark: the needle goes there, its facts stand below the table.
    void open_mark(int row);
    QString detail() const { return detail_->text(); }
    /// Writes the template by the ending of its name: pdf, svg, dxf, or the marks as csv.
    Result<void> save_to(const QString& path, const QString& paper);

  private:
    void refresh();
    void typed(int row);
    void save(const QString& ending);

    QComboBox *datum_, *long_side_, *paper_;
    QTableWidget* table_;
    QLabel *detail_, *parked_;
    QVBoxLayout* checks_;
    QList<StatusLine*> lines_;
    std::map<std::string, QuantityEdit*> numbers_;
    std::map<std::string, std::string> when_;
    QFormLayout* form_;
    bool filling_ = false;
};

} // namespace ng::app
