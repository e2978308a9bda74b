// One exercise, large enough for fingers: what is asked, with what one may look, what was found; and when it
// is judged, what the field says.
#pragma once
#include "app/model/trainee.h"
#include "app/stages/exercise_pictures.h"
#include "app/stages/touch.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QTimer>

namespace ng::app {

class TrainerWindow : public QWidget {
    Q_OBJECT
  public:
    TrainerWindow(Session& session, Trainee& trainee, QWidget* parent = nullptr);

    /// For whoever plays it without a hand: buttons by what they do.
    QPushButton* means_button(const std::string& id) { return means_.at(id); }
    QPushButton* decision_button(FaultDecision decision) { return decide_.at(decision); }
    QPushButton* release_button(bool release) { return release ? release_ : hold_; }
    QPushButton* answer_button() { return answer_; }
    QPushButton* another_button() { return another_; }
    QComboBox* kind_box() { return kind_; }
    QListWidget* options() { return options_; }
    QLineEdit* number_field() { return number_; }
    QString said() const { return result_->text(); }
    QString seen_words() const { return seen_->text(); }

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void refresh();
    void fill_question();
    void fill_answer();
    void find(FaultDecision decision);
    void answer();
    void move_option(int by);

    Session& session_;
    Trainee& trainee_;
    QLabel *title_, *given_, *asks_, *seen_, *result_, *time_, *state_;
    QWidget *inspect_, *drill_, *judged_, *work_, *moves_, *number_box_;
    std::map<std::string, QPushButton*> means_;
    std::map<FaultDecision, QPushButton*> decide_;
    QComboBox *kind_, *side_;
    QLineEdit *at_, *number_;
    QListWidget *findings_, *options_;
    QPushButton *release_, *hold_, *answer_, *another_, *close_;
    ExercisePicture* picture_;
    SeeingView* seeing_;
    QTimer heartbeat_;
    QString solving_;   ///< as it was last said
    std::string shown_; ///< id of the exercise whose question the widgets hold
};

} // namespace ng::app
