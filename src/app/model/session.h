// What the window shows, in one place: document, prepared design, solution, pinned state, units, theme, axis.
#pragma once
#include "app/model/axis_model.h"
#include "app/model/document.h"
#include "app/model/solver.h"
#include "draw/theme.h"
#include "units/quantity.h"
#include <optional>

namespace ng::app {

class Session : public QObject {
    Q_OBJECT
  public:
    explicit Session(Library library, QObject* parent = nullptr);

    Document document;
    AxisModel axis;

    const Library& library() const { return library_; }
    LengthUnit unit() const { return unit_; }
    const draw::Theme& theme() const { return theme_; }
    /// The design as described now; null while the input cannot be used, then `input_error` says why.
    std::shared_ptr<const PreparedDesign> prepared() const { return prepared_; }
    const std::optional<InputError>& input_error() const { return input_error_; }
    SolvedPtr solved() const { return solved_; }
    SolvedPtr pinned() const { return pinned_; }
    /// Whether `solved` belongs to the design as described now.
    bool is_current() const { return solved_ && solved_->prepared == prepared_; }
    QString solve_state() const { return solve_state_; }
    bool is_refining() const { return refining_; }

    /// While a hand moves, only coarse solutions are made.
    void set_live(bool live);
    bool is_live() const { return live_; }
    void refine(double goal = 0.01);
    void cancel();
    void set_unit(LengthUnit unit);
    void set_dark(bool dark);
    void pin();
    void unpin();
    void set_number(const std::string& key, double value_mm, const QString& label);
    void tell(const InputError& error) { emit message(QString::fromStdString(error.message())); }

    /// A proposed profile, drawn over the section in its coordinates.
    void show_proposal(std::vector<Point> line);
    const std::vector<Point>& proposal() const { return proposal_; }
    Library& changeable_library() { return library_; }
    /// After the library has changed: the design is prepared anew.
    void prepare_again() { prepare(); }

    double needle_z() const; ///< in the coordinates of the prepared (else solved) design
    double datum_z() const;
    void move_needle_to_z(double z_mm);

  signals:
    void prepared_changed();
    void solved_changed();
    void state_changed();
    void pinned_changed();
    void proposal_changed();
    void look_changed(); ///< units or theme
    void message(QString text);

  private:
    void prepare();
    void take(SolvedPtr solved);

    Library library_;
    Solver solver_;
    std::shared_ptr<const PreparedDesign> prepared_;
    std::optional<InputError> input_error_;
    SolvedPtr solved_, pinned_;
    LengthUnit unit_ = LengthUnit::mm;
    std::vector<Point> proposal_;
    draw::Theme theme_ = draw::Theme::light();
    QString solve_state_;
    bool live_ = false, refining_ = false, fresh_design_ = true;
};

} // namespace ng::app
