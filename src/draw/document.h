// Documents as HTML with their pictures in it, and the same printed to PDF.
#pragma once
#include "units/result.h"
#include <QImage>
#include <QString>
#include <vector>

namespace ng::draw {

/// HTML under construction. Text is escaped; pictures are kept by name until it is written.
class Document {
  public:
    explicit Document(QString title, bool large = false) : title_(std::move(title)), large_(large) {}

    /// Names and values of data- attributes: what programs read from the HTML.
    using Data = std::vector<std::pair<QString, QString>>;
    void heading(int level, const QString& text, const Data& data = {});
    void paragraph(const QString& text, const QString& css_class = {});
    void list(const std::vector<QString>& items, const QString& css_class = {});
    void table(const std::vector<QString>& head, const std::vector<std::vector<QString>>& rows,
               const QString& css_class = {}, const std::vector<Data>& row_data = {});
    /// `width_mm` on paper.
    void picture(const QImage& image, double width_mm, const QString& what);
    /// What follows, up to the next call, stays on one page where it fits one.
    void keep_together();
    void page_break();
    /// Stands at the head of every printed page, and at the top of the HTML.
    void warn(const QString& text) { warning_ = text; }
    /// Markup of one's own.
    void raw(const QString& html) { body() += html; }
    static QString escaped(const QString& text) { return text.toHtmlEscaped(); }

    /// One file, pictures within.
    QString html() const;
    Result<void> write_html(const std::string& path) const;
    /// A4 portrait, page numbers and title at the foot.
    Result<void> write_pdf(const std::string& path) const;

  private:
    struct Chunk {
        QString html;
        bool new_page = false;
    };
    QString& body() { return chunks_.back().html; }
    QString page(const QString& body, bool for_paper) const;
    QString title_;
    bool large_;
    QString warning_;
    std::vector<Chunk> chunks_{1};
    struct Picture {
        QString name;
        QImage image;
        double width_mm;
    };
    std::vector<Picture> pictures_;
};

} // namespace ng::draw
