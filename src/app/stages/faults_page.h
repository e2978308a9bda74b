#pragma once
#include "app/stages/fault_pictures.h"
#include "app/stages/page.h"
#include <QPushButton>

namespace ng::app {

/// Stage Faults: one fault judged with its reason, the design's own, and what could be there that nobody
/// would see. Solved in the background.
class FaultsPage : public Page {
    Q_OBJECT
  public:
    FaultsPage(Session& session, QWidget* parent);
    void judge(); ///< the fault that the fields describe
    void scan();  ///< every kind at its usual place
    void keep();  ///< puts the fault of the fields onto the design
    QString answer() const { return answer_->text(); }
    const FaultBars& bars() const { return *bars_; }
    QCheckBox* everywhere() { return everywhere_; } ///< the design is judged with its faults in all stages

  signals:
    void judged();
    void scanned(); ///< to its end

  private:
    /// The design without faults as it was last judged, for whatever comes next on the same one.
    struct KnownSound {
        std::string of; ///< the design, as text
        std::shared_ptr<const Sound> sound;
    };
    /// Calls `work` on a thread with the design judged without faults, solved only if nobody has it; a
    /// refusal is handed to `refused`, on that thread too.
    void with_sound(Worker& worker, std::function<void(const Job&, const Sound&, const CancelFlag&)> work,
                    std::function<void(const InputError&)> refused);
    Fault described() const;
    void refresh();
    void show_kind();
    /// Puts the answer there, field strength in the unit that is shown.
    void show_answer(const QString& words);

    QComboBox *kind_, *side_, *filling_, *sheet_, *own_;
    QuantityEdit *size_, *at_;
    QLabel *answer_, *state_, *found_by_;
    QString said_; ///< the answer in kV/mm
    QPushButton* remove_;
    RunRow scanning_;
    QCheckBox* everywhere_;
    FaultInset* inset_;
    FaultBars* bars_;
    KnownSound known_;
    std::string scanned_of_; ///< the design that the bars belong to
    Worker one_, all_;
    int run_one_ = 0, run_all_ = 0;
    std::optional<double> size_mm_, at_mm_; ///< typed; none: the kind's least, its usual place
    std::optional<double> sheet_ohm_;       ///< chosen; none: the kind's usual
};

} // namespace ng::app
