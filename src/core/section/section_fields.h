// The fields of a section file: one table for the reader, its messages and docs/section.schema.json.
#pragma once
#include "io/fields.h"

namespace ng {

/// Greatest values that a section may give; beyond them figures lose their digits or their meaning.
struct SectionLimits {
    static constexpr double largest_kV = 1e5;
    static constexpr double least_hz = 1e-6, largest_hz = 1e9; ///< of analyses that have a frequency
    static constexpr double largest_S_per_m = 1e9;
    static constexpr double largest_eps_r = 1e6;
    static constexpr double largest_kV_per_mm = 1e6; ///< in conduction laws
};

const ObjectFields& section_fields();
/// The required field "outline" of a region, an electrode or a drawn part.
FieldSpec outline_field(const char* meaning);

} // namespace ng
