#include "app/help_window.h"
#include "app/model/text.h"
#include "app/model/window_size.h"
#include "draw/svg.h"
#include "io/file.h"
#include "io/json_reader.h"
#include <QHBoxLayout>
#include <QRegularExpression>
#include <QVBoxLayout>
#include <algorithm>
#include <filesystem>

namespace ng::app {
namespace {

HelpTopic topic(const QString& id, const QString& title, const QString& html) {
    auto plain = html;
    static const QRegularExpression tags("<[^>]*>");
    return {id, title, "<h2>" + title.toHtmlEscaped() + "</h2>" + html, title + " " + plain.remove(tags)};
}

QString paragraph(const QString& text) {
    return "<p>" + text.toHtmlEscaped() + "</p>";
}

std::filesystem::path figure_file(const Library& library, const QString& name) {
    return library.folder / "help/figures" / (name.toStdString() + ".svg");
}

} // namespace

/// Figures are drawn in the colours of the theme, at the resolution of the screen.
class HelpWindow::Text : public QTextBrowser {
  public:
    explicit Text(Session& session) : session_(session) {}

  protected:
    QVariant loadResource(int type, const QUrl& url) override {
        if (type != QTextDocument::ImageResource || url.scheme() != "figure")
            return QTextBrowser::loadResource(type, url);
        const auto text = read_file(figure_file(session_.library(), url.path()), most_table_bytes);
        if (!text) return {};
        const auto& t = session_.theme();
        auto drawn = q(*text);
        for (const auto& [name, colour] :
             {std::pair{"{ink}", t.ink}, std::pair{"{faint}", t.faint}, std::pair{"{accent}", t.accent},
              std::pair{"{brick}", t.brick}, std::pair{"{ochre}", t.ochre}, std::pair{"{paper}", t.panel}})
            drawn.replace(name, colour.name());
        return draw::svg_image(drawn.toUtf8(), devicePixelRatioF());
    }

  private:
    Session& session_;
};

Result<QList<HelpTopic>> help_topics(const Library& library) {
    const auto text = read_file(library.folder / "help/help.json", most_table_bytes);
    if (!text) return tl::unexpected(text.error());
    const auto document = parse_json(*text, "help.json");
    if (!document) return tl::unexpected(document.error());
    if (auto v = check_format(*document, "needlegauge-help", 1, "help.json"); !v)
        return tl::unexpected(v.error());
    JsonReader top(*document, "help.json");
    QList<HelpTopic> out;
    QString first;
    for (const auto& line : top.array("first", true))
        if (line.is_string()) first += paragraph(q(line.get<std::string>()));
    out << topic("first", "First steps", first);
    QString keys = "<table cellpadding=4>";
    for (const auto& row : top.array("keys", true))
        if (row.is_array() && row.size() == 2 && row[0].is_string() && row[1].is_string())
            keys += QString("<tr><td><b>%1</b></td><td>%2</td></tr>")
                        .arg(q(row[0].get<std::string>()).toHtmlEscaped(),
                             q(row[1].get<std::string>()).toHtmlEscaped());
    out << topic("keys", "Keys", keys + "</table>");
    for (const auto& value : top.array("checks", true)) {
        JsonReader in(value, "help.json, a check");
        const auto id = q(in.text("id")), title = q(in.text("title"));
        const auto html = paragraph(q(in.text("how"))) + "<p><b>Formula</b> " +
                          q(in.text("formula")).toHtmlEscaped() + "</p><p><b>Limit</b> " +
                          q(in.text("source")).toHtmlEscaped() + "</p><p><b>Not for</b> " +
                          q(in.text("not_for")).toHtmlEscaped() + "</p>";
        if (!in.ok()) return tl::unexpected(*in.error());
        out << topic("check:" + id, "How: " + title, html);
    }
    for (const auto& value : top.array("terms", true)) {
        JsonReader in(value, "help.json, a term");
        const auto term = q(in.text("term"));
        auto html = paragraph(q(in.text("text")));
        if (const auto figure = q(in.text_or("figure", "")); !figure.isEmpty()) {
            if (!std::filesystem::is_regular_file(figure_file(library, figure)))
                return refuse("help.json",
                              "it names the figure " + figure.toStdString() + ", which is not there",
                              "Install the program anew");
            html += QString("<p><img src=\"figure:%1\"></p>").arg(figure);
        }
        if (!in.ok()) return tl::unexpected(*in.error());
        out << topic("term:" + term, term, html);
    }
    if (!top.ok()) return tl::unexpected(*top.error());
    return out;
}

HelpWindow::HelpWindow(Session& session, QWidget* parent) : QWidget(parent, Qt::Window), session_(session) {
    setObjectName("helpWindow");
    setWindowTitle("Help");
    open_within_screen(*this, {820, 560});
    auto* row = new QHBoxLayout(this);
    auto* left = new QVBoxLayout;
    search_ = new QLineEdit;
    search_->setPlaceholderText("words");
    search_->setAccessibleName("Words to look for in help");
    search_->setFixedWidth(290);
    list_ = new QListWidget;
    list_->setAccessibleName("Topics");
    list_->setFixedWidth(290);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    left->addWidget(search_);
    left->addWidget(list_, 1);
    row->addLayout(left);
    text_ = new Text(session);
    text_->setAccessibleName("Help text");
    text_->setFrameShape(QFrame::NoFrame);
    row->addWidget(text_, 1);
    auto topics = help_topics(session.library());
    if (topics)
        topics_ = std::move(*topics);
    else
        text_->setPlainText(q(topics.error().message()));
    connect(search_, &QLineEdit::textChanged, this, &HelpWindow::search);
    connect(list_, &QListWidget::currentRowChanged, this, &HelpWindow::choose);
    connect(&session, &Session::look_changed, this, &HelpWindow::restyle);
    restyle();
    search({});
}

void HelpWindow::restyle() {
    const auto& t = session_.theme();
    setStyleSheet(
        QString(
            "#helpWindow { background: %1; } QTextBrowser { background: %1; color: %2; font-size: 11pt; }")
            .arg(t.panel.name(), t.ink.name()));
    if (list_->currentRow() >= 0) { // figures in the new colours
        text_->document()->clear();
        choose(list_->currentRow());
    }
}

void HelpWindow::search(const QString& words) {
    const auto wanted = words.split(' ', Qt::SkipEmptyParts);
    list_->clear();
    for (qsizetype i = 0; i < topics_.size(); ++i) {
        const bool all = std::all_of(wanted.begin(), wanted.end(), [&](const QString& w) {
            return topics_[i].plain.contains(w, Qt::CaseInsensitive);
        });
        if (!all) continue;
        auto* item = new QListWidgetItem(topics_[i].title);
        item->setData(Qt::UserRole, static_cast<int>(i));
        // Those whose title has the words come first.
        const bool by_title =
            !wanted.isEmpty() && std::all_of(wanted.begin(), wanted.end(), [&](const QString& w) {
                return topics_[i].title.contains(w, Qt::CaseInsensitive);
            });
        by_title ? list_->insertItem(0, item) : list_->addItem(item);
    }
    if (list_->count())
        list_->setCurrentRow(0);
    else
        text_->setPlainText("Nothing is found. Try one word.");
}

void HelpWindow::choose(int row) {
    const auto* item = list_->item(row);
    if (!item) return;
    const auto& topic = topics_[item->data(Qt::UserRole).toInt()];
    shown_ = topic.id;
    text_->setHtml(topic.html);
}

bool HelpWindow::show_about(const QString& words) {
    search_->clear();
    search({});
    const auto show = [&](const QString& id) {
        for (int row = 0; row < list_->count(); ++row)
            if (topics_[list_->item(row)->data(Qt::UserRole).toInt()].id == id) {
                list_->setCurrentRow(row);
                return true;
            }
        return false;
    };
    if (show(words)) return true; // first, keys
    // A check's id, with or without its side or the test it is judged at.
    for (const auto& t : topics_)
        if (t.id.startsWith("check:") && !words.isEmpty() && words.startsWith(t.id.mid(6)))
            if (const auto rest = words.mid(t.id.size() - 6);
                rest.isEmpty() || rest == "_a" || rest == "_b" || rest.startsWith('.'))
                return show(t.id);
    // The term that shares the longest word with what is meant.
    QString best;
    qsizetype longest = 3;
    for (const auto& t : topics_) {
        if (!t.id.startsWith("term:")) continue;
        for (const auto& piece : t.title.split(',', Qt::SkipEmptyParts))
            if (const auto word = piece.trimmed();
                word.size() > longest && words.contains(word, Qt::CaseInsensitive)) {
                longest = word.size();
                best = t.id;
            }
    }
    return !best.isEmpty() && show(best);
}

} // namespace ng::app
