// What declarations of calls share.
#pragma once
#include "cli/answer.h"
#include "design/library.h"
#include <CLI/CLI.hpp>
#include <functional>
#include <memory>
#include <string>
#include <utility>
#include <vector>

namespace ng::cli {

/// A call and what it does once its options are read.
using CallList = std::vector<std::pair<CLI::App*, std::function<int()>>>;

/// Calls that one word begins: "record verify", "record export".
class CallGroup {
  public:
    CallGroup(CLI::App& parent, CallList& calls, const char* name, const char* words)
        : group_(parent.add_subcommand(name, words)), calls_(&calls) {
        group_->require_subcommand(1);
    }
    template <class Arguments>
    CLI::App* add(const char* name, const char* words, const std::shared_ptr<Arguments>& a,
                  int (*act)(const Arguments&)) const {
        return add(name, words, [a, act] { return act(*a); });
    }
    /// One that wants the library.
    template <class Arguments>
    CLI::App* add(const char* name, const char* words, const std::shared_ptr<Arguments>& a,
                  int (*act)(const Arguments&, const Library&)) const {
        return add(name, words, [a, act] {
            const auto library = load_library(data_folder());
            return library ? act(*a, *library) : complain(library.error());
        });
    }

  private:
    CLI::App* add(const char* name, const char* words, std::function<int()> act) const {
        auto* one = group_->add_subcommand(name, words);
        calls_->emplace_back(one, std::move(act));
        return one;
    }
    CLI::App* group_;
    CallList* calls_;
};

/// The type, in the help, of a file that is written: before all else it is asked whether it can be.
inline constexpr auto output_file = "FILE";
inline CLI::Option* add_output(CLI::App* call, const char* name, std::string& path, const char* words) {
    return call->add_option(name, path, words)->type_name(output_file);
}

/// As JSON or as CSV, not both.
template <class Arguments> void print_as(CLI::App* call, const std::shared_ptr<Arguments>& a) {
    call->add_flag("--json", a->json, "print as JSON")
        ->excludes(call->add_flag("--csv", a->csv, "print as CSV"));
}

void add_record_calls(CLI::App& parent, CallList& calls); ///< "record" and its calls
void add_train_calls(CLI::App& parent, CallList& calls);  ///< "train" and its calls

} // namespace ng::cli
