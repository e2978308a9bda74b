// A design evaluated with the library as far as that needs no solved field: what the command line, the window
// and every study begin with.
#pragma once
#include "design/library.h"
#include "document/job.h"
#include "fit/fit.h"

namespace ng {

/// A design with everything resolved that does not need a solved field.
struct PreparedDesign {
    std::string data_version;       ///< of the library
    const Family* family = nullptr; ///< of the library, which outlives what is prepared with it
    Design design;
    Cable cable;
    CableDimensions dimensions;
    std::optional<Cable> other_cable; ///< side B, where it is another cable
    std::optional<CableDimensions> other_dimensions;
    std::optional<BodyDrawing> drawing; ///< of a family that is made from one
    CableElectrical electrical;
    DutyClass levels;
    std::string standard_title;
    bool in_scope = true; ///< of the standards pack
    double pd_limit_pC = 5;
    bool above_cable = false; ///< the duty's class: the cable itself, or that of a side, is not made for it
    LimitTable limits;
    MaterialTable materials;
    BuiltAccessory built;
    FitReport fit;

    DesignContext context() const {
        return {*family,
                design,
                cable,
                dimensions,
                materials,
                other_cable ? &*other_cable : nullptr,
                other_dimensions ? &*other_dimensions : nullptr,
                drawing ? &*drawing : nullptr};
    }
};

/// The drawing of a design: of the job, or of those that ship; without an id the first there is. None: there
/// is none.
const BodyDrawing* drawing_of(const Design& design, const Job& job, const Library& library);

/// The standards that count in a job: its own packs before those that ship, with its overrides in place.
Result<std::vector<StandardsPack>> packs_of(const Job& job, const Library& library);

Result<PreparedDesign> prepare_design(const Job& job, const std::string& design_id, const Library& library);

/// How a design of a job is prepared: as it is (prepare_design), or with what lies on it (fault/fault.h).
using Preparer = std::function<Result<PreparedDesign>(const Job&, const std::string&, const Library&)>;

} // namespace ng
