#include "section/section.h"
#include <algorithm>
#include <array>

namespace ng {
namespace {

constexpr std::array<std::pair<Analysis, const char*>, 5> analysis_names{
    {{Analysis::capacitive, "capacitive"},
     {Analysis::complex, "complex"},
     {Analysis::nonlinear, "nonlinear"},
     {Analysis::impulse, "impulse"},
     {Analysis::dc, "dc"}}};

/// Whether two lists are alike, item by item.
template <class T, class Same> bool all_same(const std::vector<T>& a, const std::vector<T>& b, Same same) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(), same);
}

} // namespace

const char* analysis_word(Analysis analysis) {
    return analysis_names[static_cast<std::size_t>(analysis)].second;
}

std::optional<Analysis> analysis_from_word(std::string_view word) {
    for (const auto& [analysis, known] : analysis_names)
        if (word == known) return analysis;
    return {};
}

std::vector<std::string> analysis_words() {
    std::vector<std::string> out;
    for (const auto& [analysis, word] : analysis_names) out.emplace_back(word);
    return out;
}

bool same_shapes(const Section& a, const Section& b) {
    return a.symmetry == b.symmetry && a.paths == b.paths && a.probes == b.probes &&
           all_same(a.regions, b.regions,
                    [](const Region& x, const Region& y) {
                        return x.name == y.name && x.covers_electrodes == y.covers_electrodes &&
                               x.outline == y.outline;
                    }) &&
           all_same(a.electrodes, b.electrodes,
                    [](const Electrode& x, const Electrode& y) {
                        return x.name == y.name && x.floating == y.floating && x.outline == y.outline;
                    }) &&
           all_same(a.boundaries, b.boundaries, [](const Boundary& x, const Boundary& y) {
               return x.name == y.name && x.along == y.along;
           });
}

} // namespace ng
