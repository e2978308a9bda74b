// Stage Trainer: who is trained, what comes next, an exam, and how it stands by topic.
#pragma once
#include "app/model/trainee.h"
#include "app/stages/page.h"
#include <QCheckBox>
#include <QLineEdit>
#include <QListWidget>

namespace ng::app {

class TrainerWindow;

class TrainerPage : public Page {
    Q_OBJECT
  public:
    TrainerPage(Session& session, Trainee& trainee, QWidget* parent);
    /// The window of the exercises, shown.
    TrainerWindow* open_window();
    QListWidget* topics() { return topics_; }
    QLineEdit* initials_field() { return initials_; }
    QLineEdit* seed_field() { return seed_; }
    QComboBox* task_box() { return task_; }
    QPushButton* next_button() { return next_; }
    QPushButton* chosen_button() { return chosen_; }
    QPushButton* exam_button() { return exam_; }

  private:
    void refresh();
    void ask_chosen();
    void begin_exam();
    /// What stands in the seed's field; a new one where nothing does. None: it is no seed, the message says
    /// so.
    std::optional<std::uint64_t> seed();

    Trainee& trainee_;
    QComboBox *role_, *task_, *level_;
    QLineEdit *initials_, *seed_, *count_, *minutes_;
    QCheckBox* any_;
    QLabel *file_, *standing_;
    QListWidget* topics_;
    QPushButton *next_, *chosen_, *own_, *exam_, *result_, *forget_;
    TrainerWindow* window_ = nullptr;
};

} // namespace ng::app
