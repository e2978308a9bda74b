// The full-size template on paper: PDF sheets with scale bars and registration marks, and SVG untiled.
#pragma once
#include "plan/template.h"

namespace ng::draw {

/// One page a sheet, landscape, full size; the printer must not scale.
Result<void> write_template_pdf(const std::vector<TemplateStrip>& strips, const Paper& paper,
                                const std::string& title, const std::string& path);
Result<void> write_template_svg(const std::vector<TemplateStrip>& strips, const std::string& title,
                                const std::string& path);

} // namespace ng::draw
