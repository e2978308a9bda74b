// What the spread of the design hangs on: main and total effects of what varies.
#pragma once
#include "app/stages/study_panel.h"
#include "study/study.h"

namespace ng::app {

class EffectsPanel : public StudyPanel {
    Q_OBJECT
  public:
    EffectsPanel(Session& session, QWidget* parent);
    const StudySummary* summary() const { return shown_ ? &shown_->summary : nullptr; }
    void set_blocks(std::uint64_t blocks) { blocks_ = blocks; }
    Result<void> save(const QString& path) const override;

  protected:
    std::string solved_of() const override { return session_.varied_hash(); }
    Solve solve() override;
    void forget() override { shown_.reset(); }
    void paint(QPainter& painter, const QRectF& place) override;

  private:
    struct Shown {
        StudyPlan plan;
        StudySummary summary;
    };
    std::shared_ptr<const Shown> shown_;
    std::uint64_t blocks_ = 64;
};

} // namespace ng::app
