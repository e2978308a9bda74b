// Sections that lie beside the tests.
#pragma once
#include "io/file.h"
#include "section/section.h"

namespace ng::test {

inline Result<Section> stored_section(const std::string& folder, const std::string& name) {
    const auto file = std::string(NEEDLEGAUGE_REFERENCE_DIR) + folder + name + ".ngsection";
    const auto text = read_file(file, most_document_bytes);
    if (!text) return tl::unexpected(text.error());
    return read_section_text(*text, file);
}
/// One that another program has solved too.
inline Result<Section> reference_section(const std::string& name) {
    return stored_section("/sections/", name);
}
/// One that a run of tests/honesty found.
inline Result<Section> found_section(const std::string& name) {
    return stored_section("/../honesty/", name);
}

} // namespace ng::test
