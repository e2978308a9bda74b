// What declarations of calls share.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>
#include <memory>
#include <utility>
#include <vector>

namespace ng::cli {

/// A call and what it does once its options are read.
using CallList = std::vector<std::pair<CLI::App*, std::function<int()>>>;

/// As JSON or as CSV, not both.
template <class Arguments> void print_as(CLI::App* call, const std::shared_ptr<Arguments>& a) {
    call->add_flag("--json", a->json, "print as JSON")
        ->excludes(call->add_flag("--csv", a->csv, "print as CSV"));
}

/// "record" and its calls.
void add_record_calls(CLI::App& parent, CallList& calls);

} // namespace ng::cli
