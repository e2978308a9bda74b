// What moves the design most: each quantity by itself to both ends of its tolerance.
#pragma once
#include "app/stages/study_panel.h"
#include "study/worst.h"

namespace ng::app {

class TornadoPanel : public StudyPanel {
    Q_OBJECT
  public:
    TornadoPanel(Session& session, QWidget* parent);
    const Tornado* tornado() const { return shown_ ? &shown_->tornado : nullptr; }
    Result<void> save(const QString& path) const override;

  protected:
    std::string solved_of() const override { return session_.varied_hash(); }
    Solve solve() override;
    void forget() override { shown_.reset(); }
    void paint(QPainter& painter, const QRectF& place) override;

  private:
    struct Shown {
        StudyPlan plan;
        Tornado tornado;
    };
    std::shared_ptr<const Shown> shown_;
};

} // namespace ng::app
