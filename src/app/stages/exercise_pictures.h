// Pictures of an exercise: the accessory as it was designed, and when it is judged the field without and with
// each fault.
#pragma once
#include "app/model/trainee.h"
#include <QWidget>

namespace ng::app {

/// The accessory that is asked about, finished, as it was designed.
class ExercisePicture : public QWidget {
    Q_OBJECT
  public:
    ExercisePicture(Session& session, QWidget* parent);
    void show_design(const Job& job, const std::string& design);
    bool has_two_sides() const { return prepared_ && ng::has_two_sides(prepared_->built); }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Session& session_;
    std::optional<PreparedDesign> prepared_;
    std::optional<CutPlan> plan_;
};

/// Of each fault its field without and with it, at its true shape, and what it moves.
class SeeingView : public QWidget {
    Q_OBJECT
  public:
    explicit SeeingView(QWidget* parent = nullptr);
    void show_all(const std::vector<Trainee::Seeing>& seeing);
};

} // namespace ng::app
