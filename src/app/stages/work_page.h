#pragma once
#include "app/stages/page.h"
#include <QListWidget>
#include <QPushButton>

namespace ng::app {

class Recorder;
class StepWindow;

/// Stage Work sheet: schools, the list of steps, the picking list, print-outs, and the step-by-step screen.
class WorkPage : public Page {
    Q_OBJECT
  public:
    WorkPage(Session& session, Recorder& recorder, QWidget* parent);
    QListWidget* steps() { return steps_; }
    QString problem() const { return problem_->text(); }
    StepWindow* open_steps(int index = 0);
    Result<void> save_to(const QString& path, bool large);

  private:
    Recorder& recorder_;
    void refresh();
    void save(const QString& ending, bool large);

    std::map<std::string, QComboBox*> schools_;
    QListWidget* steps_;
    QLabel *problem_, *picking_;
};

} // namespace ng::app
