// Rubber bodies with an inner electrode over the connector, an earthed cone over each screen edge and an
// earthed outer skin: premoulded and cold-shrink joints (two entrances), and the cable entrance of separable
// connectors, adapters and bus joints (one entrance; beyond the connector the body runs on as a coaxial
// part).
#pragma once
#include "accessory/lay_up.h"
#include "accessory/parameters.h"

namespace ng {

/// Groups "Body", "Inner electrode", "Cone". `edge` is the key of the (first) screen edge, `end` of the
/// (first) insulation end.
void add_screened_body_parameters(ParameterList& list, const std::string& edge, const std::string& end,
                                  FitItem::Kind kind);

struct ScreenedBody {
    PlaceId datum; ///< one entrance: what positions are measured from
    FitItem::Kind fit = FitItem::Kind::cold_shrink;
    double beyond_mm = 0; ///< one entrance: how far the section shows the part beyond the datum
    std::vector<std::string> statements;
};

/// Two entrances: connector and both cables, joint centre at z = 0.
Result<BuiltAccessory> build_two_entrances(const DesignContext& context, const ScreenedBody& body);
/// One entrance: the conductor's lug or contact runs to the datum at z = 0 and beyond.
Result<BuiltAccessory> build_one_entrance(const DesignContext& context, const ScreenedBody& body);

} // namespace ng
