// Faults that hands leave: kinds, and a design with some of them on it. A kind is one file in this folder,
// which registers itself (NEEDLEGAUGE_FAULT); no family knows a fault, and no kind knows a family: it finds
// what it needs by the places that the section has.
#pragma once
#include "design/prepared.h"
#include "geometry/box.h"

namespace ng {

/// How a fault is looked for: probability of detection c Phi((ln a - ln a50) / s) of a fault of size a (the
/// usual log-normal form, MIL-HDBK-1823, from memory).
struct Inspection {
    std::string means;
    double a50_mm = 0, s = 0.5, c = 0.97; ///< a50 0: hands cannot find it
};
/// That probability; of a fault without a size, and where a size is no matter, c.
double chance_of_finding(const Inspection& inspection, double size_mm);
/// Size that this share of them finds; infinite where they cannot.
double found_from_mm(const Inspection& inspection, double share = 0.9);

/// What a fault may be filled with.
struct Filling {
    std::string id, words;
    double eps_r = 1; ///< from memory
};
const std::vector<Filling>& fillings();

/// A body of air that may discharge: the region and the path across it that its gap is read along; of one
/// that is not in the section, how its field follows from that on the path.
struct AirBody {
    PlaceId region, path;
    std::string words;
    double eps_around = 1;
    double diameter_mm = 0; ///< across the gap, for the charge of a flat one
    /// Solves for mm across the gap, and the field there over the normal field of the path at `z_mm`: when it
    /// is answered, not when the design is prepared.
    using Profile = std::vector<std::pair<double, double>>;
    std::function<Result<Profile>()> across = {};
    double z_mm = 0;
    /// Stretch of the path, in z, whose tangential field the gap sees along itself.
    std::optional<std::pair<double, double>> along = {};
};

enum class FaultDecision { accept, rework, cut_back, ask };
const char* decision_word(FaultDecision decision);     ///< "accept", "rework", "cut_back", "ask": in files
const char* decision_in_words(FaultDecision decision); ///< "accept", "rework", "cut back", "stop and ask"

/// A design with faults on it: prepared, its section changed.
struct FaultyDesign {
    PreparedDesign prepared;
    std::vector<AirBody> air;
    std::vector<std::string> models; ///< what each fault is taken for, and what that leaves out
    std::vector<std::string> notes;  ///< why one changes nothing
    std::vector<Region> drawn;       ///< outlines of the faults, for pictures
    std::vector<Region> only_drawn;  ///< of those that are not in the section
};

class FaultSite;

struct FaultKind {
    std::string id, title;
    std::string model;                ///< how it stands in the section, and what that leaves out
    std::string size_words;           ///< "depth", "height", ...
    double least_mm = 0, most_mm = 0; ///< that are searched
    double width_mm = 0;              ///< usual; 0: it has none
    std::string width_words = "width";
    double from_edge_mm = 0; ///< where it usually lies, from the screen edge towards the live end
    bool has_filling = false;
    double sheet_ohm = 0;     ///< usual surface resistance of a film that conducts, ohm per square; 0: none
    bool takes_sheet = false; ///< one may be given, without it the film is a conductor
    bool has_sheet() const { return takes_sheet || sheet_ohm > 0; }
    /// No matter of the field: what is done about it whatever its size, and why. Such a kind has no size.
    struct Rule {
        FaultDecision decision = FaultDecision::rework;
        std::string why;
    };
    std::optional<Rule> rule;
    Inspection inspection;
    bool hurts_insulation = false; ///< it cannot be undone without touching the insulation
    std::string rework;            ///< how it is undone, and what is looked at again
    std::string source;            ///< of its figures
    std::string step;              ///< of the work sheet, at which it is looked for
    /// Puts it onto the section, at its site (fault/site.h). None: it changes numbers, or is a rule.
    std::function<Result<void>(FaultSite& site, const Fault& fault)> put;
    /// Changes the numbers of the design before it is prepared. None: it changes the section.
    std::function<Result<void>(Job& job, const Fault& fault, const std::string& design,
                               const Library& library)>
        change;
};

/// Begins the function that makes a kind, and registers it: NEEDLEGAUGE_FAULT(nick, 30) { ... }.
#define NEEDLEGAUGE_FAULT(name, order) FaultKind name()

/// In the order in which they are offered.
const std::vector<FaultKind>& fault_kinds();
const FaultKind* find_fault_kind(const std::string& id);

/// Refuses by name what no kind is, sizes not above zero, and widths, places and fillings that cannot be.
Result<void> check_fault(const Fault& fault, const std::string& item);

/// Refuses a side that the design does not have, and none on one that has two; by `title`.
Result<void> check_side(const BuiltAccessory& built, Side side, const std::string& title);

/// Prepares the design with these faults on it; none: as it is. Refuses by the fault's name one that does not
/// fit this design: nothing is clipped.
Result<FaultyDesign> prepare_faulty(const Job& job, const std::string& design,
                                    const std::vector<Fault>& faults, const Library& library);

/// Round all that a fault changes in the section, for pictures: its outlines, or of one that moves numbers
/// the screen edge of its side, 12 mm to either side.
Box place_of(const FaultyDesign& design, Side side);

/// The design with the faults that the job has on it, prepared like any other (a Preparer); what is printed
/// of it says so. Faults with a place of their own have a handle, keyed fault_handle(0) and so on.
Result<PreparedDesign> prepare_with_faults(const Job& job, const std::string& design, const Library& library);
/// That, or prepare_design.
Preparer preparer(bool with_faults);
std::string fault_handle(std::size_t index);
/// The index of the fault whose handle this is; none: of no fault.
std::optional<std::size_t> fault_of_handle(const std::string& key);

/// "10 Mohm per square"
std::string sheet_words(double ohm);
/// "ring nick 0.3 mm deep, 5 mm from the screen edge A"
std::string fault_words(const Fault& fault);

} // namespace ng
