// A tube thinner than it was drawn: shrunk too far, scorched, thin on one side.
#include "fault/lessen.h"

namespace ng {

NEEDLEGAUGE_FAULT(wall_thin, 45) {
    FaultKind k;
    k.id = "wall_thin";
    k.title = "tube wall thin or scorched";
    k.model =
        "The recovered wall of the innermost tube is thinner by this, all round and all along; a thin side "
        "or a scorched place alone is milder";
    k.size_words = "missing wall";
    k.least_mm = 0.05;
    k.most_mm = 5;
    k.inspection = {"caliper, eye for scorch", 0.15, 0.5, 0.97};
    k.rework = "Slit the tube off and shrink on a new one";
    k.source = "10 to 30 % of the wall: common practice, no source";
    k.step = "place-control";
    k.change = [title = k.title](Job& job, const Fault& fault, const std::string& design,
                                 const Library& library) {
        constexpr double least_mm = 0.3;
        const auto wall = [](const PreparedDesign& p) {
            for (const auto& item : p.built.fit)
                if (const auto key = item.prefix + "_recovered_wall_mm";
                    !item.prefix.empty() && p.family->parameter(key))
                    return key;
            return std::string();
        };
        return lessen(job, fault, design, library, title, wall, least_mm,
                      "no tube with a wall of its own lies on the insulation here");
    };
    return k;
}

} // namespace ng
