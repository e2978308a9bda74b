#include "material/material.h"
#include "io/json_reader.h"
#include <cmath>

namespace ng {

const Material* MaterialTable::find(const std::string& id) const {
    for (const auto& material : materials)
        if (material.id == id) return &material;
    return nullptr;
}

Result<MaterialTable> read_materials(const nlohmann::json& document) {
    if (auto version = check_format(document, "needlegauge-materials", 1, "materials"); !version)
        return tl::unexpected(version.error());
    MaterialTable table;
    JsonReader top(document, "materials");
    for (const auto& value : top.array("materials", true)) {
        JsonReader in(value, "materials");
        Material m;
        m.id = in.text("id");
        m.title = in.text("title");
        m.hatch = in.text("hatch");
        m.eps_r.value = in.number("eps_r");
        m.eps_r.provenance = provenance_from_word(in.text("provenance"));
        m.eps_r.note = in.text_or("note", "");
        for (const auto& row : in.array("eps_share_by_frequency")) {
            if (!row.is_array() || row.size() != 2 || !row[0].is_number() || !row[1].is_number())
                return refuse("material " + m.id, "a row of eps_share_by_frequency is not [Hz, share]",
                              "Correct it");
            const std::pair<double, double> now{row[0].get<double>(), row[1].get<double>()};
            auto& rows = m.eps_share_by_frequency;
            if (!(now.first > 0 && now.second > 0) ||
                (!rows.empty() && !(now.first > rows.back().first && now.second <= rows.back().second)))
                return refuse("material " + m.id, "eps_share_by_frequency is out of order",
                              "Order it by rising frequency; permittivity must not rise with it");
            rows.push_back(now);
        }
        if (m.eps_share_by_frequency.size() == 1)
            return refuse("material " + m.id, "eps_share_by_frequency has one row", "Give at least two");
        m.eps_share_provenance = provenance_from_word(in.text_or("eps_share_provenance", "common-practice"));
        if (const auto rows = in.array("life_exponents"); !rows.empty()) {
            if (rows.size() != 2 || !rows[0].is_number() || !rows[1].is_number() ||
                !(rows[0].get<double>() >= 1 && rows[1].get<double>() >= rows[0].get<double>()))
                return refuse("material " + m.id, "its life exponents are not [least, greatest] from 1 up",
                              "Correct life_exponents");
            m.life = {rows[0].get<double>(), rows[1].get<double>()};
        }
        m.dc_S_per_m = {in.number("dc_S_per_m"), "S/m",
                        provenance_from_word(in.text_or("dc_provenance", "from-memory")), false, ""};
        m.warming = {in.optional_number("eps_per_kelvin").value_or(0),
                     in.optional_number("S_per_kelvin").value_or(0)};
        if (std::abs(m.warming.eps_per_kelvin) > 0.005 || m.warming.S_per_kelvin < 0 ||
            m.warming.S_per_kelvin > 0.3)
            return refuse("material " + m.id, "its growth with temperature is not possible",
                          "Correct eps_per_kelvin (within 0.005) and S_per_kelvin (0 to 0.3)");
        if (in.ok() && !(m.dc_S_per_m.value > 0))
            return refuse("material " + m.id, "its DC conductivity is not above zero", "Correct dc_S_per_m");
        if (in.ok() && !(m.eps_r.value >= 1))
            return refuse("material " + m.id, "its permittivity is below 1", "Correct eps_r");
        if (!in.ok()) return tl::unexpected(*in.error());
        table.materials.push_back(m);
    }
    if (!top.ok()) return tl::unexpected(*top.error());
    return table;
}

} // namespace ng
