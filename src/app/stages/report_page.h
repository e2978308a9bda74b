#pragma once
#include "app/stages/page.h"
#include <QLineEdit>
#include <QPushButton>

namespace ng::app {

/// Stage Report: the engineering report of this design or of the whole job, written in the background.
class ReportPage : public Page {
    Q_OBJECT
  public:
    ReportPage(Session& session, QWidget* parent);
    /// `path` ends in pdf or html.
    void write(const QString& path, bool whole_job);
    /// Freezes the design as its next revision, by what stands in the fields.
    void freeze_design();
    QString state() const { return state_->text(); }

  signals:
    void written(bool good);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void save(const QString& ending);
    void refresh_revisions();

    QComboBox* scope_;
    QLabel* state_;
    RunRow writing_;
    QLineEdit *by_, *why_;
    QLabel* revisions_;
    Worker worker_;
    int run_ = 0;
};

} // namespace ng::app
