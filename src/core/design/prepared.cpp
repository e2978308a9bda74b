#include "design/prepared.h"
#include "closedform/tape.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {

Result<std::vector<StandardsPack>> packs_of(const Job& job, const Library& library) {
    std::vector<StandardsPack> packs;
    for (const auto& document : job.standards_packs) {
        auto pack = read_standards_pack(document);
        if (!pack) return tl::unexpected(pack.error());
        packs.push_back(std::move(*pack));
    }
    for (const auto& pack : library.standards)
        if (std::none_of(packs.begin(), packs.end(), [&](const auto& p) { return p.id == pack.id; }))
            packs.push_back(pack);
    return with_overrides(std::move(packs), job.level_overrides);
}

const BodyDrawing* drawing_of(const Design& design, const Job& job, const Library& library) {
    const BodyDrawing* first = nullptr;
    for (const auto* list : {&job.drawings, &library.drawings})
        for (const auto& drawing : *list) {
            if (drawing.id == design.drawing_id) return &drawing;
            if (!first) first = &drawing;
        }
    return design.drawing_id.empty() ? first : nullptr;
}

Result<PreparedDesign> prepare_design(const Job& job, const std::string& design_id, const Library& library) {
    const auto* design = job.find_design(design_id);
    if (!design)
        return refuse("design " + design_id, "it is not in the job", "Name one of the job's designs");
    const auto* cable = job.find_cable(design->cable_id);
    if (!cable) return refuse("design " + design_id, "its cable is not in the job", "Choose a cable");
    PreparedDesign out;
    out.data_version = library.version;
    out.design = *design;
    out.cable = *cable;
    out.limits = library.limits.with_overrides(job.limit_overrides);
    out.materials = library.materials;
    for (auto& material : out.materials.materials)
        if (const auto it = job.material_overrides.find(material.id); it != job.material_overrides.end()) {
            if (!(it->second >= 1))
                return refuse("material " + material.id, "its permittivity is below 1",
                              "Correct the override");
            material.eps_r.value = it->second;
            material.eps_r.provenance = Provenance::user;
        }
    auto dimensions = derive_dimensions(*cable, library.cables);
    if (!dimensions) return tl::unexpected(dimensions.error());
    out.dimensions = std::move(*dimensions);
    const auto* family = library.families.find(design->family);
    if (!family)
        return refuse("design " + design->title,
                      fmt::format("accessory family “{}” is unknown", design->family),
                      "Open it with a version that has this family");
    out.family = family;
    if (family->two_cables && !design->other_cable_id.empty() && design->other_cable_id != design->cable_id) {
        const auto* other = job.find_cable(design->other_cable_id);
        if (!other)
            return refuse("design " + design_id, "its cable of side B is not in the job", "Choose a cable");
        auto other_dimensions = derive_dimensions(*other, library.cables);
        if (!other_dimensions) {
            auto error = other_dimensions.error();
            error.item += " of side B";
            return tl::unexpected(error);
        }
        out.other_cable = *other;
        out.other_dimensions = std::move(*other_dimensions);
    }
    if (family->from_drawing) {
        const auto* drawing = drawing_of(*design, job, library);
        if (!drawing && !design->drawing_id.empty())
            return refuse("design " + design_id,
                          fmt::format("its drawing “{}” is not in the job", design->drawing_id),
                          "Import it, or choose another");
        if (drawing) out.drawing = *drawing;
    }
    const auto packs = packs_of(job, library);
    if (!packs) return tl::unexpected(packs.error());
    auto levels = duty_levels(design->duty, *packs);
    if (!levels) return tl::unexpected(levels.error());
    out.levels = std::move(*levels);
    out.design.duty.class_u0_kV = out.levels.u0_kV.value_or(0);
    const auto pack = std::find_if(packs->begin(), packs->end(),
                                   [&](const auto& p) { return p.id == design->duty.standard; });
    out.standard_title = pack->title;
    out.in_scope = pack->in_scope;
    out.pd_limit_pC = pack->pd_limit_pC;
    const auto* insulation = out.materials.find(cable->insulation_material);
    if (!insulation)
        return refuse("insulation", fmt::format("material “{}” is unknown", cable->insulation_material),
                      "Choose XLPE, TR-XLPE, EPR or paper");
    out.electrical = cable_electrical(out.dimensions, insulation->eps_r.value, out.design.duty.u0(),
                                      design->duty.frequency_hz);
    auto built = build_accessory(out.context());
    if (!built) return tl::unexpected(built.error());
    out.built = std::move(*built);
    const auto of_side = [&](const Cable& side, const CableDimensions& derived, const std::string& which) {
        const auto* of_cable = pack->for_cable(side.insulation_class_kV);
        if (of_cable && out.design.duty.class_kV > of_cable->class_kV) {
            out.above_cable = true;
            out.built.statements.push_back(fmt::format(
                "The duty's class, {:g} kV, is above the cable's own{}, {:g} kV: the cable itself is not "
                "made for it.",
                out.design.duty.class_kV, which, side.insulation_class_kV));
        }
        for (const auto& layer : derived.layers)
            if (!layer.contradiction.empty())
                out.built.statements.push_back("Cable" + which + ": " + layer.contradiction);
    };
    of_side(out.cable, out.dimensions, out.other_cable ? " of side A" : "");
    if (out.other_cable) of_side(*out.other_cable, *out.other_dimensions, " of side B");
    const auto tape = tape_of(design->numbers);
    if (!tape) return tl::unexpected(tape.error());
    out.fit = check_fit({out.context(), out.built, out.limits, library.kits, library.connectors, *tape});
    return out;
}

} // namespace ng
