#pragma once
#include "app/stages/page.h"
#include <QPushButton>

namespace ng::app {

/// Stage Report: the engineering report of this design or of the whole job, written in the background.
class ReportPage : public Page {
    Q_OBJECT
  public:
    ReportPage(Session& session, QWidget* parent);
    /// `path` ends in pdf or html.
    void write(const QString& path, bool whole_job);
    QString state() const { return state_->text(); }

  signals:
    void written(bool good);

  private:
    void save(const QString& ending);

    QComboBox* scope_;
    QLabel* state_;
    QPushButton* cancel_;
    Worker worker_;
    int run_ = 0;
};

} // namespace ng::app
