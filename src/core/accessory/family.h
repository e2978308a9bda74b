// Accessory families: a family turns a design on a cable into a section, with its marks, handles and checks.
// A new family is one file in this folder, which registers itself (NEEDLEGAUGE_FAMILY); nothing else switches
// on a family.
#pragma once
#include "accessory/check_id.h"
#include "cable/cable.h"
#include "closedform/closedform.h"
#include "document/body_drawing.h"
#include "document/design.h"
#include "material/material.h"
#include "place/place.h"
#include "section/section.h"
#include <functional>
#include <limits>
#include <map>
#include <memory>
#include <set>
#include <string>
#include <vector>

namespace ng {

enum class CableSide { a, b };
struct Family;

/// What a family may look at.
struct DesignContext {
    const Family& family;
    const Design& design;
    const Cable& cable;
    const CableDimensions& dimensions;
    const MaterialTable& materials;
    const Cable* other_cable = nullptr; ///< side B; none: as side A
    const CableDimensions* other_dimensions = nullptr;
    const BodyDrawing* drawing = nullptr; ///< of a family that is made from one; none: there is none

    const Cable& cable_of(CableSide side) const {
        return side == CableSide::b && other_cable ? *other_cable : cable;
    }
    const CableDimensions& dimensions_of(CableSide side) const {
        return side == CableSide::b && other_dimensions ? *other_dimensions : dimensions;
    }
};

enum class ParameterKind { length, permittivity, conductivity, number, choice };

struct ParameterSpec {
    std::string key;   ///< as in the job file, with its unit suffix
    std::string group; ///< heading in the panel
    std::string label;
    std::string help;
    ParameterKind kind = ParameterKind::length;
    double lowest = 0, highest = 0; ///< absurd beyond
    std::function<double(const DesignContext&)> default_value;
    std::vector<std::pair<std::string, std::string>> options =
        {}; ///< choice: value, words; the first is the default
    /// What the value may as well be where nobody gave it (from memory), of the value that is assumed.
    /// Without: it is measured or drawn. Nothing: it does not count in this design.
    std::function<std::optional<double>(const DesignContext&, double assumed)> may_be = {};
};

/// A layer or body as it is drawn and labelled.
struct Part {
    PlaceId place; ///< its name is that of a region or electrode of the section
    std::string label;
    std::string hatch;
    bool electrode = false;
    bool moulded = false;   ///< into a rubber body: it comes with it
    bool kit_piece = false; ///< the kit holds it, though nobody slips it over the cable
};

enum class MarkKind {
    reference, ///< the datum itself
    cable_end,
    connector_end,
    conductor_screen_end,
    insulation_end,
    pencil_start,
    screen_edge,
    metallic_cut,
    core_tube_end,
    crotch,
    bedding_cut,
    armour_cut,
    jacket_cut,
    mastic_end,
    tube_end,
    body_end,
    anchor,
    cone,
    tape_end,
    calibration,
    rod_edge,
};

/// A cut or edge to be marked on the cable, mm from the datum towards -z; negative on side B of a joint.
struct Mark {
    MarkKind kind = MarkKind::reference;
    PlaceId place;
    std::string label; ///< for people
    double from_datum_mm = 0;
    CableSide side = CableSide::a;
    std::string parameter; ///< that a drag of the mark changes; empty: it follows from others
    double per_mm = 1;     ///< change of the parameter per mm of from_datum_mm
};

/// A place in BUILD that can be dragged along the cable: parameter = at_datum_mm + per_mm (z - datum_z).
struct Handle {
    std::string key;
    std::string label;
    Point at;
    double at_datum_mm = 0;
    double per_mm = -1;
};

/// Where on an insulation surface a question reads.
enum class InsulationZone { none, edge, grading, live_end };
/// "edge zone", "grading", "live end"; of none nothing.
const char* zone_words(InsulationZone zone);

/// One question to the solved field; limits and voltages by name, so that verdicts need not know families.
struct CheckRequest {
    CheckId id;
    std::string title;
    enum class Quantity { tangential, magnitude, edge_peak } quantity = Quantity::tangential;
    std::vector<PlaceId> places; ///< paths, or edges for edge_peak
    /// The stretch of the path that is judged, along it; both ends alike: that one place.
    double from_s_mm = 0, to_s_mm = std::numeric_limits<double>::infinity();
    double mean_over_mm = 0; ///< above 0: the largest mean over this length instead of the largest value
    std::vector<std::pair<double, double>> leave_out = {}; ///< stretches within it that are not judged
    double edge_s_mm = 0; ///< where on the path the screen edge is, for readings beside it
    InsulationZone zone = InsulationZone::none;
    /// The kind of level that it is judged at. `service`: U0, and again at every test whose limits it has.
    TestKind at = TestKind::service;
    std::string limit_id;
    double divide_by = 1; ///< reference for ratio checks: field of the undisturbed cable at U0
    std::string because;  ///< what it means when it falls short
    std::string cure;     ///< what would help
};

/// What a closed form may propose for a family: which parameters take it over, by their role. Where it goes
/// on the section follows from the places that the family makes.
struct AidRole {
    enum class Kind { cone, tape_cone, pencil, edge_radius, graded_layer } kind = Kind::cone;
    std::map<std::string, std::string> keys; ///< role ("length", "profile", "rise", ...) to parameter key
    int rank = 0;                            ///< of edge radii: only the first of a family is proposed

    /// The parameter with this role; none: the family has none.
    std::optional<std::string> key(const std::string& role) const {
        const auto it = keys.find(role);
        return it == keys.end() ? std::nullopt : std::optional(it->second);
    }
};

/// The connector of a family: which sort of the library it takes, and the parameters that its dimensions go
/// to.
struct ConnectorRole {
    std::string use;                      ///< "lug" or "joint"; empty: none
    std::string length_key, diameter_key; ///< may be empty
    std::string palm_width_key = {};      ///< of a lug that parts go over afterwards; empty: none do
};

/// Closed-form figure shown while the field is being solved.
struct FirstEstimate {
    CheckId check;
    double value = 0;
    std::string formula;
};

/// A planar section across the axis, solved beside the main one and judged with it.
struct AcrossSection {
    std::string id;
    std::string title;
    Section section;
    std::vector<Part> parts;
    std::vector<CheckRequest> checks;
};

/// A part with a range beside what it goes on: fit is judged from these (fit/fit.h).
struct FitItem {
    PlaceId place;
    std::string part; ///< such as "stress tube": in the fit list
    enum class Kind { shrink, cold_shrink, slip_on, over_connector } kind = Kind::shrink;
    closedform::ShrinkTube tube;
    struct On {
        std::optional<PlaceId> what; ///< a layer of the cable or the connector; none: parts beneath
        double diameter_mm = 0;
    };
    std::vector<On> on;      ///< all that it lies on
    std::string prefix = {}; ///< of its parameters: prefix + "_expanded_bore_mm" and so on
};

/// A part that is slipped over the cable, as it lies in the end.
struct PlacedPart {
    std::string part; ///< as it is called in refusals and in the fit list: "Stress tube"
    PlaceId place;
    std::string label;
    double z0_mm = 0, z1_mm = 0;
    FitItem::Kind kind = FitItem::Kind::shrink;
    double bore_mm = 0;    ///< as supplied
    bool integral = false; ///< moulded into the next one: nobody places it by itself
    bool control = false;  ///< laid with the stress control; else with insulation and covers
};

/// Tape or mastic that is built up: quantities are worked out from it (fit/quantity.h).
struct BuildUp {
    std::string part; ///< for people
    enum class Kind { tape, mastic } kind = Kind::tape;
    std::vector<Point> inner, outer; ///< profiles of one z range
};

/// A distance that is no matter of the field.
struct Clearance {
    std::string title;
    double value_mm = 0, needed_mm = 0;
    std::string cure;
};

/// What a flashover in air has to bridge: the farthest live metal or conductive part, covered or not, and the
/// earthed one nearest to it.
struct AirEnds {
    PlaceId earthed, live;
    double earthed_z_mm = 0, live_z_mm = 0;
};

/// A gap that hands leave on an interface; its size is a rule of the limits table.
struct GapLeft {
    PlaceId path;
    double from_s_mm = 0, to_s_mm = 0;
    std::string rule;
};

/// What only a family knows of the work on it, and what calls for steps of the sheet.
enum class WorkFact { belted, two_cores_on_b, portable };
/// As the book of steps writes it: "two cores on B".
const char* fact_words(WorkFact fact);

struct BuiltAccessory {
    Section section;
    PlaceId datum = place::cable_end;      ///< what the marks are measured from
    PlaceId zero = place::screen_edge;     ///< what lies at z = 0
    double datum_z_mm = 0;                 ///< its z; a mark at distance p lies at z = datum_z - p
    double view_z0_mm = 0, view_z1_mm = 0; ///< what is worth seeing, along the cable
    double view_r0_mm = 0, view_r_mm = 0;  ///< and radially: the conductor is shown broken off at view_r0
    std::vector<Part> parts;
    std::vector<Mark> marks;
    std::vector<Handle> handles;
    std::vector<CheckRequest> checks;
    std::vector<FirstEstimate> estimates;
    std::vector<std::string> cautions;
    std::vector<std::string>
        statements; ///< what the model leaves out or the accessory lacks: said with the verdict
    std::vector<AcrossSection> across;
    double control_length_mm =
        0; ///< from the screen edge to where the stress control or the other screen ends
    std::vector<FitItem> fit;
    std::vector<PlacedPart> placed; ///< in the order in which they are laid
    std::vector<BuildUp> build_ups;
    std::vector<Clearance> clearances;
    std::vector<Point> leakage_surface;  ///< outer surface in air, from the earthed to the live end
    std::optional<PlaceId> leakage_path; ///< the path along it
    std::optional<AirEnds> air_ends;     ///< of every accessory with such a surface
    std::vector<GapLeft> gaps;
    std::set<WorkFact> work_facts;             ///< that call for steps of the sheet
    std::map<std::string, double> dc_S_per_m;  ///< by material of the section
    std::map<std::string, LifeExponents> life; ///< by material of the section; none: it has no known one
    std::map<std::string, Warming> warming;    ///< by material of the section
    std::map<std::string, double> derived;     ///< such as recovered walls, by words with unit
};

/// A joint: it has a screen edge on side B.
bool has_two_sides(const BuiltAccessory& built);

/// z of the first screen edge: where the eye goes first.
double first_screen_edge_z(const BuiltAccessory& built);

struct Family {
    std::string id;
    std::string title;
    bool two_cables = false;    ///< a joint: side B may be another cable
    bool from_drawing = false;  ///< made from a drawing of the job or of the library
    std::string usual_standard; ///< duty of a new design: "ieee48" or "ieee404"
    std::vector<ParameterSpec> parameters;
    ConnectorRole connector;
    std::vector<AidRole> aids; ///< in the order in which they are shown
    std::function<Result<BuiltAccessory>(const DesignContext&)> build;

    const ParameterSpec* parameter(const std::string& key) const;
};

/// Begins the function that makes a family, and registers it: NEEDLEGAUGE_FAMILY(taped_joint, 80) { ... }.
/// The number says where the window offers it: between its neighbours' numbers.
#define NEEDLEGAUGE_FAMILY(name, order) Family name()

/// The families of a library, in the order in which they are offered. Copies share them, and a family stays
/// where it is as long as one of them lives.
class FamilyTable {
  public:
    explicit FamilyTable(std::vector<Family> families)
        : families_(std::make_shared<const std::vector<Family>>(std::move(families))) {}
    /// Those that register themselves in this folder.
    static const FamilyTable& shipped();

    auto begin() const { return families_->begin(); }
    auto end() const { return families_->end(); }
    std::size_t size() const { return families_->size(); }
    const Family& operator[](std::size_t i) const { return families_->at(i); }
    /// None: there is none of this id.
    const Family* find(const std::string& id) const;

  private:
    std::shared_ptr<const std::vector<Family>> families_;
};

/// The value of a parameter in this design: the user's or the default.
double number_of(const DesignContext& context, const std::string& key);
std::string choice_of(const DesignContext& context, const std::string& key);

/// Builds after checking every parameter against its range; refusals name the parameter by its label.
Result<BuiltAccessory> build_accessory(const DesignContext& context);

} // namespace ng
