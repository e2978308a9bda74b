#include "design/revisions.h"
#include "units/text.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {
namespace {
using nlohmann::json;

/// After "Z" comes "AA".
std::string next_name(const std::vector<Revision>& revisions) {
    std::size_t n = revisions.size();
    std::string name;
    do {
        name.insert(name.begin(), static_cast<char>('A' + n % 26));
        n = n / 26;
    } while (n-- > 0);
    return name;
}

/// Key of a field as people say it: "class_kV" to "class (kV)".
std::string field_words(std::string key) {
    for (const char* unit : {"_mm", "_kV", "_hz", "_m", "_C", "_Mohm"})
        if (key.ends_with(unit)) {
            key.resize(key.size() - std::string_view(unit).size());
            key.append(" (").append(unit + 1).append(")");
            break;
        }
    std::replace(key.begin(), key.end(), '_', ' ');
    return key;
}

std::string value_words(const json& value) {
    if (value.is_null()) return "usual";
    if (value.is_string()) return value.get<std::string>();
    if (value.is_number()) return fmt::format("{:g}", value.get<double>());
    if (value.is_boolean()) return value.get<bool>() ? "yes" : "no";
    return value.dump();
}

class Differences {
  public:
    Differences(const Family* family, std::vector<std::string>& out) : family_(family), out_(out) {}

    /// Every field of two objects; fields that are objects are gone into.
    void fields(const std::string& item, const json& before, const json& after,
                const std::set<std::string>& left_out = {}) {
        std::set<std::string> keys;
        for (const auto* of : {&before, &after})
            if (of->is_object())
                for (const auto& [key, value] : of->items()) keys.insert(key);
        for (const auto& key : keys) {
            if (left_out.contains(key)) continue;
            const auto at = [&](const json& of) {
                return of.is_object() && of.contains(key) ? of[key] : json();
            };
            const json a = at(before), b = at(after);
            if (a == b) continue;
            if ((a.is_object() || a.is_null()) && (b.is_object() || b.is_null()) &&
                !(a.is_null() && b.is_null()))
                fields(item.empty() ? field_words(key) : item + ", " + field_words(key), a, b);
            else
                out_.push_back(
                    fmt::format("{}: {} → {}", label(item, key), words(item, key, a), words(item, key, b)));
        }
    }

  private:
    std::string label(const std::string& item, const std::string& key) const {
        if (const auto* spec = parameter(item, key))
            return spec->group.empty() ? spec->label : spec->group + ", " + lower_first(spec->label);
        return upper_first(item.empty() ? field_words(key) : item + ", " + field_words(key));
    }
    std::string words(const std::string& item, const std::string& key, const json& value) const {
        const auto* spec = parameter(item, key);
        if (!spec) return value_words(value);
        if (value.is_null()) return "usual";
        if (value.is_string())
            for (const auto& [option, said] : spec->options)
                if (value.get_ref<const std::string&>() == option) return said;
        return value_words(value) + (spec->kind == ParameterKind::length ? " mm" : "");
    }
    /// The family's parameter where the field is one of the design's own; a cable may have one of the same
    /// name.
    const ParameterSpec* parameter(const std::string& item, const std::string& key) const {
        return family_ && (item == "numbers" || item == "choices") ? family_->parameter(key) : nullptr;
    }

    const Family* family_;
    std::vector<std::string>& out_;
};

} // namespace

Job alone(const Job& job, const Design& design) {
    Job out;
    out.title = job.title;
    for (const auto& cable : job.cables)
        if (cable.id == design.cable_id || cable.id == design.other_cable_id) out.cables.push_back(cable);
    for (const auto& drawing : job.drawings)
        if (drawing.id == design.drawing_id) out.drawings.push_back(drawing);
    if (design.drawing_id.empty()) out.drawings = job.drawings; // the first there is
    out.limit_overrides = job.limit_overrides;
    out.level_overrides = job.level_overrides;
    out.standards_packs = job.standards_packs;
    out.material_overrides = job.material_overrides;
    out.step_texts = job.step_texts;
    out.designs = {design};
    out.designs.front().revisions.clear();
    out.designs.front().faults.clear(); // what hands left is no part of the design
    out.open_design = design.id;
    return out;
}

namespace {

bool is_last_frozen(const Job& job, const Design& design) {
    if (design.revisions.empty()) return false;
    const auto last = job_of(design.revisions.back());
    return last && *last == alone(job, design);
}

std::string words_of(const Revision& revision) {
    return fmt::format("revision {}, {}", revision.name, revision.on);
}

} // namespace

Result<Revision> freeze(const Job& job, const Design& design, const std::string& by, const std::string& why,
                        const std::string& on) {
    if (trimmed(by).empty())
        return refuse("Revision", "nobody is named who froze it", "Give a role or initials");
    if (trimmed(why).empty()) return refuse("Revision", "no reason is given", "Say why it is frozen");
    if (is_last_frozen(job, design))
        return refuse("Revision",
                      fmt::format("nothing has changed since revision {}", design.revisions.back().name),
                      "Go on with that one");
    return Revision{next_name(design.revisions), on, trimmed(by), trimmed(why),
                    json(write_job(alone(job, design)))};
}

Result<Job> job_of(const Revision& revision) {
    return read_job(revision.frozen, "revision " + revision.name);
}

Result<const Revision*> find_revision(const Design& design, const std::string& name) {
    std::vector<std::string> names;
    for (const auto& r : design.revisions) {
        if (r.name == name) return &r;
        names.push_back(r.name);
    }
    return refuse("design " + design.id, fmt::format("it has no revision “{}”", name),
                  names.empty() ? "Freeze one first"
                                : fmt::format("Give one of: {}", fmt::join(names, ", ")));
}

Result<DesignState> state_of(const Job& job, const std::string& name) {
    const auto at = name.rfind('@');
    const auto* design = job.find_design(name);
    if (design || at == std::string::npos) {
        if (!design)
            return refuse("design " + one_line(name), "it is not in the job",
                          "Name one of the job's designs");
        return DesignState{job, name, revision_words(job, *design), is_last_frozen(job, *design)};
    }
    const auto id = name.substr(0, at);
    design = job.find_design(id);
    if (!design)
        return refuse("design " + one_line(id), "it is not in the job", "Name one of the job's designs");
    const auto revision = find_revision(*design, name.substr(at + 1));
    if (!revision) return tl::unexpected(revision.error());
    auto frozen = job_of(**revision);
    if (!frozen) return tl::unexpected(frozen.error());
    if (!frozen->find_design(id))
        return refuse("revision " + (*revision)->name, "it holds another design",
                      "Freeze the design again, or take the revision out");
    frozen->find_design(id)->revisions = {**revision};
    return DesignState{std::move(*frozen), id, words_of(**revision), true};
}

std::string revision_words(const Job& job, const Design& design) {
    if (design.revisions.empty()) return "not frozen";
    const auto& last = design.revisions.back();
    if (is_last_frozen(job, design)) return words_of(last);
    return fmt::format("changed since revision {}: not frozen", last.name);
}

std::vector<std::string> changes_between(const Job& before, const Job& after, const Family* family) {
    std::vector<std::string> out;
    if (before.designs.empty() || after.designs.empty()) return out;
    const auto &was = before.designs.front(), &is = after.designs.front();
    Differences differences(family, out);
    const json a = write_job(before), b = write_job(after);
    const auto &da = a["designs"][0], &db = b["designs"][0];
    differences.fields("", da, db, {"id", "revisions"});
    const auto cable = [](const json& of, const std::string& id) {
        for (const auto& c : of["cables"])
            if (c["id"] == id) return c;
        return json();
    };
    differences.fields("cable", cable(a, was.cable_id), cable(b, is.cable_id), {"id"});
    if (!was.other_cable_id.empty() || !is.other_cable_id.empty())
        differences.fields("cable of side B", cable(a, was.other_cable_id), cable(b, is.other_cable_id),
                           {"id"});
    for (const char* key : {"limit_overrides", "level_overrides", "material_overrides", "step_texts",
                            "drawings", "standards_packs"}) {
        const auto at = [&](const json& of) { return of.contains(key) ? of[key] : json(); };
        const json x = at(a), y = at(b);
        if (x == y) continue;
        if (x.is_array() || y.is_array())
            out.push_back(upper_first(field_words(key)) + ": changed");
        else
            differences.fields(field_words(key), x, y);
    }
    return out;
}

std::vector<std::string> changes_of(const Design& design, std::size_t revision, const Family* family) {
    if (revision >= design.revisions.size()) return {};
    if (revision == 0) return {"The first revision"};
    const auto before = job_of(design.revisions[revision - 1]), after = job_of(design.revisions[revision]);
    if (!before) return {before.error().message()};
    if (!after) return {after.error().message()};
    return changes_between(*before, *after, family);
}

std::vector<std::string> changes_since(const Job& job, const Design& design, const Family* family) {
    if (design.revisions.empty()) return {};
    const auto before = job_of(design.revisions.back());
    if (!before) return {before.error().message()};
    return changes_between(*before, alone(job, design), family);
}

} // namespace ng
