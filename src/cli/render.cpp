#include "cli/render.h"
#include "cli/offscreen.h"
#include "draw/design_picture.h"

namespace ng::cli {

Result<void> render_png(const PreparedDesign& prepared, const Solution& solution, const std::string& file,
                        int width, int height) {
    const OffscreenGui gui;
    if (!draw::design_picture(prepared, solution, width, height).save(QString::fromStdString(file), "PNG"))
        return refuse(file, "the picture could not be written", "Choose another place");
    return {};
}

} // namespace ng::cli
