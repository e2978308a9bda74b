// The section of an accessory as a jointer lays it up: from the cable outwards, each part over what lies
// there already. `LayUp` keeps the outer profile, and hands the parts to the section outermost first
// (painter's order).
#pragma once
#include "accessory/cable_end.h"
#include "accessory/cone.h"

namespace ng {

class LayUp {
  public:
    explicit LayUp(const DesignContext& context);

    BuiltAccessory out; ///< section without regions until `finish`
    Profile lying{{}};  ///< outer profile of what lies there so far
    double u0_kV = 0;
    double wall_share = 1; ///< of the mean recovered wall, on the side that is drawn

    /// `entry`: the entry of the materials table that it is a case of, where that has another name.
    void material(const std::string& name, double eps_r, std::optional<Conduction> conduction = {},
                  const std::string& entry = {});
    /// Of the materials table.
    double eps_of(const std::string& id) const;
    /// The entry of the materials table that a section's material is, or is a case of; null: none.
    const Material* entry_of(const std::string& name) const;

    /// Adds a body over all before it. It reaches inwards as far as it likes: what was laid before covers it.
    void region(const PlaceId& place, const std::string& material, Outline outline, const std::string& label,
                const std::string& hatch);
    void electrode(const PlaceId& place, double voltage_kV, Outline outline, const std::string& label,
                   const std::string& hatch);
    /// `side`: the region in which it is read.
    void path(const PlaceId& place, std::vector<Point> points, const PlaceId& side);
    /// What is laid next lies over a metal layer's rounded corners by their chords, for no cusp is left then.
    void cover_rounded(const Profile& outer, double start_radius_mm, double end_radius_mm);
    /// The profile where it is clear of such corners, and along them where it cuts them.
    Profile clear_of_corners(Profile profile) const;
    /// Of the region or electrode just added.
    Part& last_part() { return out.parts.back(); }

    /// The layers of a cable end and the paths on it (insulation surface, conductor screen).
    /// Side B: mirrored. Does not touch `lying`.
    void cable_end(const CableEnd& end, bool is_mirrored = false);
    /// Both ends of a joint, its connector over their conductors, `lying` over all, and the cuts as marks.
    Result<void> joint(const CableEnd& a, const CableEnd& b, const JointConnector& connector);

    struct Tube {
        PlaceId place;
        std::string material, label, hatch;
        std::string prefix; ///< of its parameters
        closedform::ShrinkTube tube = {};
        double z0 = 0, z1 = 0;
        std::string item = {}; ///< in refusals and in the fit list
        FitItem::Kind kind = FitItem::Kind::shrink;
        PlaceId under = {}; ///< what it spans
        std::string under_material = "air", under_label = "air pocket";
        std::optional<Profile> bore_over =
            {};                ///< what its bore must fit, where moulded parts lie beneath too
        bool integral = false; ///< moulded into the next one
        bool control = false;  ///< stress control, though it grades nothing itself
        bool fused = false;    ///< one piece with the tube beneath: it has no bore of its own to fit
    };
    struct Laid {
        Profile under, outer;
    };
    /// Recovers a tube over what lies there; refuses one that does not fit all of it.
    Result<Laid> shrink(const Tube& tube);
    /// A layer of any outer profile over what lies there, filling what is beneath.
    void fill(const PlaceId& place, const std::string& material, const Profile& outer,
              const std::string& label, const std::string& hatch);
    /// Relief mastic over a screen edge in the frame of `end`; grows `lying`.
    Profile relief_mastic(const CableEnd& end, bool is_mirrored, double on_screen_mm, double on_insulation_mm,
                          double thickness_mm);
    /// The same with both its ends marked, counted from the datum at `datum_z`; parameters
    /// "mastic_on_screen_mm" and "mastic_on_insulation_mm".
    void marked_mastic(const CableEnd& end, bool is_mirrored, double on_screen_mm, double on_insulation_mm,
                       double thickness_mm, double datum_z = 0);

    /// An earthed screen of 1 mm over what lies there between z0 and z1: the section ends beneath it. It
    /// spans steps over `length_per_height` times their height; `beneath` is what is left there.
    void joint_screen(double z0, double z1, double length_per_height = bridge_length_per_height,
                      const std::string& beneath = "air");

    /// `label`: for people, where it is not the name of the place.
    void mark(MarkKind kind, const PlaceId& place, double from_datum_mm, const std::string& parameter = {},
              double per_mm = 1, const std::string& label = {});
    void handle(const std::string& key, const std::string& label, Point at, double at_datum_mm = 0,
                double per_mm = -1) {
        out.handles.push_back({key, label, at, at_datum_mm, per_mm});
    }
    void fit(const PlaceId& place, FitItem::Kind kind, const closedform::ShrinkTube& tube, const Profile& on,
             const std::string& prefix);
    /// Field of the undisturbed cable at the conductor screen, kV/mm at U0.
    double cable_stress(const CableEnd& end) const;
    double inner_mm() const { return inner_mm_; } ///< how far inwards bodies are drawn
    const DesignContext& context() const { return context_; }

    /// Turns the layers into painter's order, sorts the marks, sets the analysis, adds the usual cautions.
    BuiltAccessory finish(double view_z0, double view_z1, double view_r);

  private:
    /// Asks for the field in the air that `tube` leaves between itself and what lies beneath.
    void ask_pockets(const Tube& tube, const Profile& under);
    int pockets_ = 0;
    const DesignContext& context_;
    double inner_mm_ = 1;
    std::map<std::string, std::string> entries_; ///< of the materials table, by material of the section
    std::vector<Region> laid_;                   ///< innermost first
    std::vector<Profile> rounded_;
    struct EdgeOnSurface {
        Side side;
        double edge_s_mm, length_mm; ///< along the insulation surface
        Point beside;                ///< just past the edge, in what fills its step
    };
    std::vector<EdgeOnSurface> edges_;
    void find_gaps();
    /// The cuts of a joint's sides as marks, and handles on both screen edges.
    void joint_marks(const CableEnd& a, const CableEnd& b, double connector_length_mm);
    struct NamedDiameter {
        PlaceId what;
        double z0, z1, diameter_mm;
    };
    std::vector<NamedDiameter> surfaces_; ///< of the cable and connector: what a part lies on, by name
};

} // namespace ng
