#include "draw/pdf.h"
#include "io/file.h"
#include <QBuffer>
#include <QRegularExpression>

namespace ng::draw {

Result<void> write_pdf(const std::string& path, const QString& title, const QPageLayout& layout,
                       const std::function<void(QPdfWriter&)>& paint) {
    QByteArray bytes;
    {
        QBuffer buffer(&bytes);
        buffer.open(QIODevice::WriteOnly);
        QPdfWriter writer(&buffer);
        writer.setResolution(600);
        writer.setTitle(title);
        writer.setCreator("Needlegauge");
        writer.setPageLayout(layout);
        paint(writer);
    }
    // Equal input must give equal bytes: the date is filled with zeros, which keeps every offset.
    const qsizetype at = bytes.indexOf("/CreationDate (D:");
    if (at >= 0)
        for (qsizetype i = at + 17; i < bytes.size() && bytes[i] != ')'; ++i)
            if (bytes[i] >= '0' && bytes[i] <= '9')
                bytes[i] = i < at + 21 ? "2000"[i - at - 17] : i % 2 ? '0' : '1';
    return write_output(path, bytes.toStdString());
}

} // namespace ng::draw
