#include "cli/body_calls.h"
#include "cli/schedule_calls.h"
#include "document/drawing_io.h"
#include "document/job.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng::cli {
namespace {

Result<std::optional<double>> unit_of(const std::string& word) {
    if (word.empty()) return std::optional<double>{};
    if (word == "mm") return std::optional<double>(1.0);
    if (word == "inch") return std::optional<double>(25.4);
    return refuse("--unit", fmt::format("“{}” is no unit", word), "Give mm or inch");
}

Result<std::map<std::string, BodyRole>> roles_of(const std::vector<std::string>& words) {
    std::map<std::string, BodyRole> out;
    for (const auto& word : words) {
        const auto equals = word.rfind('=');
        const auto role = equals == std::string::npos ? std::nullopt : body_role(word.substr(equals + 1));
        if (!role) {
            std::vector<std::string> known;
            for (const auto one : body_roles()) known.push_back(role_words(one));
            return refuse("--role", fmt::format("“{}” is not LAYER=role", word),
                          fmt::format("Give a layer and one of: {}", fmt::join(known, ", ")));
        }
        if (!out.emplace(word.substr(0, equals), *role).second)
            return refuse("--role", fmt::format("layer “{}” is given twice", word.substr(0, equals)),
                          "Give it one role");
    }
    return out;
}

int list_layers(const BodyArguments& arguments, const DxfReadOptions& options) {
    const auto read = read_dxf_profiles(arguments.drawing, options);
    if (!read) return complain(read.error());
    fmt::print("unit: {:g} mm{}\n", read->mm_per_unit,
               read->unit_was_read ? ", as the drawing says" : ", as given");
    for (const auto& layer : read->layers) {
        const auto count = std::count_if(read->profiles.begin(), read->profiles.end(),
                                         [&](const auto& p) { return p.layer == layer; });
        fmt::print("{}: {} closed profile{}\n", layer, count, count == 1 ? "" : "s");
    }
    return exit_holds;
}

} // namespace

int run_body(const BodyArguments& arguments) {
    const auto unit = unit_of(arguments.unit);
    if (!unit) return complain(unit.error());
    if (arguments.axis != "x" && arguments.axis != "y")
        return complain({"--axis", fmt::format("“{}” is no axis", arguments.axis), "Give x or y"});
    const auto axis = arguments.axis == "x" ? DxfReadOptions::Axis::x : DxfReadOptions::Axis::y;
    if (arguments.list) return list_layers(arguments, {*unit, {}, axis});
    const auto roles = roles_of(arguments.roles);
    if (!roles) return complain(roles.error());
    const auto body = import_body(arguments.drawing, {arguments.id, arguments.title, *roles, *unit, axis});
    if (!body) return complain(body.error());
    if (arguments.job.empty() && arguments.out.empty())
        return complain({"import-body", "no file is named", "Give --job, or --out with a file *.ngbody"});
    if (arguments.job.empty()) {
        if (auto ok = save_body(*body, arguments.out); !ok) return complain(ok.error());
    } else {
        auto job = load_job(arguments.job);
        if (!job) return complain(job.error());
        job->put_drawing(*body);
        if (auto ok = save_job(*job, arguments.out.empty() ? arguments.job : arguments.out); !ok)
            return complain(ok.error());
    }
    fmt::print("{}: {} parts from {}\n", body->id, body->parts.size(), body->file);
    return exit_holds;
}

} // namespace ng::cli
