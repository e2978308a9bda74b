#include "draw/pdf.h"
#include <QBuffer>
#include <QFile>
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
    QFile file(QString::fromStdString(path));
    if (!file.open(QIODevice::WriteOnly) || file.write(bytes) != bytes.size())
        return refuse(path, "it could not be written", "Choose another place");
    return {};
}

} // namespace ng::draw
