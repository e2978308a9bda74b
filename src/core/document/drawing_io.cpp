#include "document/drawing_io.h"
#include "io/fields.h"
#include "io/file.h"
#include "io/json_reader.h"
#include "section/outline_json.h"
#include "section/section_fields.h"
#include "units/text.h"
#include <fmt/format.h>

namespace ng {
namespace {
using nlohmann::json;
using nlohmann::ordered_json;

FieldSpec text_field(const char* key, const char* meaning, bool required = true) {
    FieldSpec out;
    out.key = key;
    out.type = FieldSpec::Type::text;
    out.meaning = meaning;
    out.required = required;
    return out;
}

const ObjectFields& part_fields() {
    static const ObjectFields table{
        "part",
        {[] {
             auto role = text_field("role", "what it is");
             for (const auto one : body_roles()) role.choices.push_back(role_words(one));
             return role;
         }(),
         text_field("layer", "of the drawing that it came from", false),
         outline_field("closed; the drawing's axis as z, the distance from it as r")}};
    return table;
}

const ObjectFields& drawing_fields() {
    static const ObjectFields table{"drawing",
                                    {text_field("id", "within the job"), text_field("title", "for people"),
                                     text_field("file", "that it was read from", false), [] {
                                         FieldSpec parts;
                                         parts.key = "parts";
                                         parts.type = FieldSpec::Type::list;
                                         parts.required = true;
                                         parts.of = &part_fields();
                                         return parts;
                                     }()}};
    return table;
}

} // namespace

std::string id_from_title(const std::string& title) {
    const auto id = slug(title);
    return id.empty() ? "body" : id;
}

Result<BodyDrawing> read_drawing(const json& document, const std::string& item) {
    if (!document.is_object()) return refuse(item, "it is no object", "Import the drawing again");
    if (auto ok = check_fields(document, drawing_fields(), item); !ok) return tl::unexpected(ok.error());
    BodyDrawing out;
    out.id = document["id"];
    out.title = document["title"];
    out.file = document.value("file", "");
    for (const auto& value : document["parts"]) {
        DrawnPart part;
        part.role = *body_role(value["role"].get<std::string>());
        part.layer = value.value("layer", "");
        auto outline = read_outline(value["outline"], item + ", " + role_words(part.role));
        if (!outline) return tl::unexpected(outline.error());
        Point from = outline->start;
        for (const auto& step : outline->steps) {
            if (step.centre)
                if (auto arc = resolve_arc(from, step); !arc) {
                    auto error = arc.error();
                    error.item = item + ", " + role_words(part.role);
                    return tl::unexpected(error);
                }
            from = step.to;
        }
        part.outline = std::move(*outline);
        out.parts.push_back(std::move(part));
    }
    if (auto ok = check_drawing(out); !ok) return tl::unexpected(ok.error());
    return out;
}

ordered_json drawing_json(const BodyDrawing& drawing) {
    ordered_json out{{"id", drawing.id}, {"title", drawing.title}};
    if (!drawing.file.empty()) out["file"] = drawing.file;
    out["parts"] = ordered_json::array();
    for (const auto& part : drawing.parts) {
        ordered_json item{{"role", role_words(part.role)}};
        if (!part.layer.empty()) item["layer"] = part.layer;
        item["outline"] = outline_json(part.outline);
        out["parts"].push_back(std::move(item));
    }
    return out;
}

Result<BodyDrawing> load_body(const std::filesystem::path& path) {
    const auto name = path.filename().string();
    const auto text = read_file(path, most_table_bytes);
    if (!text) return tl::unexpected(text.error());
    const auto document = parse_json(*text, name);
    if (!document) return tl::unexpected(document.error());
    if (auto v = check_format(*document, "needlegauge-body", body_format_version, name); !v)
        return tl::unexpected(v.error());
    if (!document->contains("drawing"))
        return refuse(name, "it holds no drawing", "Import the DXF drawing again");
    return read_drawing((*document)["drawing"], name);
}

Result<void> save_body(const BodyDrawing& drawing, const std::filesystem::path& path) {
    const ordered_json out{
        {"format", "needlegauge-body"}, {"version", body_format_version}, {"drawing", drawing_json(drawing)}};
    return write_file_safely(path, out.dump(1) + "\n");
}

std::vector<DrawnPart> parts_of(const DxfProfiles& profiles, const std::map<std::string, BodyRole>& roles) {
    std::vector<DrawnPart> out;
    for (const auto& profile : profiles.profiles)
        if (const auto it = roles.find(profile.layer); it != roles.end())
            out.push_back({it->second, profile.layer, profile.outline});
    return out;
}

Result<BodyDrawing> import_body(const std::filesystem::path& path, const BodyImport& how) {
    if (how.roles.empty())
        return refuse(path.filename().string(), "no layer was given a role",
                      "Say of each layer what is drawn on it, such as BODY=insulating body");
    DxfReadOptions options{how.mm_per_unit, {}, how.axis};
    for (const auto& [layer, role] : how.roles) options.layers.push_back(layer);
    auto read = read_dxf_profiles(path, options);
    if (!read) return tl::unexpected(read.error());
    BodyDrawing out;
    out.file = path.filename().string();
    out.title = how.title.empty() ? path.stem().string() : how.title;
    out.id = how.id.empty() ? id_from_title(out.title) : how.id;
    out.parts = parts_of(*read, how.roles);
    if (auto ok = check_drawing(out); !ok) return tl::unexpected(ok.error());
    return out;
}

} // namespace ng
