#include "cli/render.h"
#include "cli/offscreen.h"
#include "draw/design_picture.h"
#include "io/file.h"
#include <QBuffer>

namespace ng::cli {

Result<void> render_png(const PreparedDesign& prepared, const Solution& solution, const std::string& file,
                        int width, int height) {
    const OffscreenGui gui;
    QBuffer buffer;
    if (!draw::design_picture(prepared, solution, width, height).save(&buffer, "PNG"))
        return refuse(file, "the picture could not be made", "Ask for a smaller one");
    return write_output(file, buffer.data().toStdString());
}

} // namespace ng::cli
