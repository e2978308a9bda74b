// What families share in describing their parameters: a list filled group by group, usual defaults, and
// blocks of parameters that recur (screen edge, shrink tube, joint side).
#pragma once
#include "accessory/cone.h"
#include "accessory/family.h"
#include "closedform/closedform.h"

namespace ng {

using DefaultValue = std::function<double(const DesignContext&)>;

/// Fills a family's parameters in the order in which the panel shows them.
class ParameterList {
  public:
    explicit ParameterList(Family& family) : family_(family) {}
    /// What the connector of the library is to the family.
    void takes_connector(ConnectorRole role) { family_.connector = std::move(role); }
    /// Offers a shape aid; `keys` of parameters that are, or will be, in the list.
    void aid(AidRole::Kind kind, std::map<std::string, std::string> keys, int rank = 0);
    void group(std::string heading) { group_ = std::move(heading); }
    void length(const std::string& key, const std::string& label, const std::string& help, double lowest_mm,
                double highest_mm, DefaultValue value);
    void number(const std::string& key, const std::string& label, const std::string& help, double lowest,
                double highest, DefaultValue value);
    void conductivity(const std::string& key, const std::string& label, const std::string& help,
                      double value_S_per_m);
    /// Default: that of a material of the table.
    void permittivity(const std::string& key, const std::string& label, const std::string& material);
    /// The first option is the default.
    void choice(const std::string& key, const std::string& label, const std::string& help,
                std::vector<std::pair<std::string, std::string>> options);

    /// Of the parameter added last: what it may as well be, as a factor, where nobody gave it; only where the
    /// choice `key` is not `unused`.
    void doubted(double factor, const std::string& key = {}, const std::string& unused = {});

    /// factor times another parameter of this family, plus `by`.
    DefaultValue value_of(const std::string& key, double by = 0, double factor = 1) const;

    /// Blocks.
    void screen_edge(const std::string& usual_preparation = "filed");
    /// Choice "edge_fill": what fills the step at the screen edge under a rubber body; mastic dimensions.
    /// `usual`: what fills it by default, "grease" or "mastic".
    void edge_fill(const std::string& usual = "grease", DefaultValue mastic_onto_mm = {},
                   DefaultValue mastic_mm = {});
    /// Earthed cone moulded into a body, keys cone_*; lengths grow with the class.
    void cone(bool with_tip);
    void relief_mastic(const std::string& absent_help);
    /// Keys `prefix`_expanded_bore_mm, _recovered_bore_mm, _recovered_wall_mm, _eps_r.
    void shrink_tube(const std::string& prefix, const std::string& material, DefaultValue expanded_mm,
                     DefaultValue recovered_mm, DefaultValue wall_mm);
    /// Keys `prefix`_conduction, _S_per_m, _E0_kV_per_mm, _exponent.
    void conduction(const std::string& prefix);
    /// Offers the aid for a recovered layer of this prefix; more roles: "upper end", "least upper end",
    /// "screen edge".
    void graded_layer_aid(const std::string& prefix, std::map<std::string, std::string> more_roles = {});
    /// Eccentric recovery: keys wall_side, eccentricity_percent.
    void recovery();
    /// Cutbacks from the cable end: insulation removed, screen edge, metallic screen, jacket.
    void termination_cuts(DefaultValue insulation_removed_mm, DefaultValue clearance_mm);
    void lug(bool earth_nearby);
    /// Cutbacks of both sides from the joint centre, side B by default as side A.
    void joint_cuts(DefaultValue insulation_end_mm, DefaultValue clearance_mm);
    /// Cutbacks of the one cable of a body, from its datum.
    void body_cuts(const std::string& datum, DefaultValue insulation_end_mm, DefaultValue clearance_mm);
    /// How the insulation ends: square or pencilled.
    void insulation_end(double pencil_mm, bool pencilled_first = false);
    void connector();

  private:
    Family& family_;
    std::string group_;
};

DefaultValue fixed(double value);
/// factor times the diameter of a layer of the cable (the larger of both cables' where there are two), plus.
DefaultValue of_layer(const std::string& layer, double factor, double plus_mm = 0);
DefaultValue of_smaller_layer(const std::string& layer, double factor, double plus_mm = 0);
/// base + per_kV times the class: rule of thumb for invented defaults.
DefaultValue by_class(double base, double per_kV);
/// The same up to 15 kV; each kV beyond adds `per_kV_beyond`.
DefaultValue by_class_beyond_15(double base, double per_kV, double per_kV_beyond);
/// Impulse level that a class is usually tested with, kV peak (IEEE 48 and 404, IEC 60502-4; from memory).
double usual_impulse_kV(double class_kV);
/// Insulation of a termination between live and earthed end: what impulse, rain and pollution ask of the
/// class and site, and a little.
DefaultValue insulation_in_air();
/// Sheds on such a length: for the creepage of the pollution level, as far as there is room.
DefaultValue usual_sheds(DefaultValue length_mm, DefaultValue spacing_mm);
/// Of the lugs that go on a conductor.
DefaultValue barrel_depth();
/// Relief mastic past the screen edge.
DefaultValue mastic_onto_insulation();
DefaultValue mastic_thickness();
/// The sum of two defaults.
DefaultValue plus(DefaultValue a, DefaultValue b);

/// The values of a design's parameters.
class ParameterValues {
  public:
    explicit ParameterValues(const DesignContext& context) : context_(context) {}
    const Family& family() const { return context_.family; }
    double operator()(const std::string& key) const { return number_of(context_, key); }
    bool is(const std::string& key, const std::string& value) const {
        return choice_of(context_, key) == value;
    }
    closedform::ShrinkTube tube(const std::string& prefix) const;
    std::optional<Conduction> conduction(const std::string& prefix) const;
    /// Share of the mean wall that the section is drawn with: below 1 on the worst side.
    double wall_share() const;
    EdgePreparation edge() const;
    JointConnector connector() const {
        return {(*this)("connector_length_mm"), (*this)("connector_diameter_mm"),
                (*this)("connector_end_radius_mm")};
    }
    ConeShape cone() const;
    /// Cable end of a termination, z = 0 at the screen edge, the conductor ending at the cable end.
    CableEnd termination_end(double far_z_mm) const;
    /// One side of a joint, in its own frame: the centre at z = 0.
    CableEnd joint_end(CableSide side) const;
    /// The cable of a body with one entrance, the datum at z = 0.
    CableEnd body_end() const;

  private:
    CableEnd end_from_datum(CableSide side, const std::string& prefix, Side named) const;
    const DesignContext& context_;
};

} // namespace ng
