#include "app/stages/cable_library.h"
#include "app/model/text.h"
#include "document/cable_io.h"
#include "io/file.h"
#include "io/json_reader.h"
#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QStandardPaths>
#include <QVBoxLayout>
#include <algorithm>

namespace ng::app {
namespace {

QString words_of(const Cable& c) {
    return QString("%1\n%2 %3, %4 kV %5, screen of %6")
        .arg(q(c.title), q(c.conductor_size), q(c.conductor_material))
        .arg(c.insulation_class_kV)
        .arg(q(c.insulation_level), q(c.metallic_screen));
}

Result<std::vector<Cable>> load(const QString& path) {
    const auto file = path.section('/', -1).toStdString();
    const auto text = read_file(path.toStdString(), most_table_bytes);
    if (!text) return tl::unexpected(text.error());
    const auto document = parse_json(*text, file);
    if (!document) return tl::unexpected(document.error());
    return read_cable_library(*document, file);
}

/// In place of one of its id.
void put(std::vector<Cable>& cables, const Cable& cable) {
    const auto same =
        std::find_if(cables.begin(), cables.end(), [&](const auto& c) { return c.id == cable.id; });
    if (same == cables.end())
        cables.push_back(cable);
    else
        *same = cable;
}

} // namespace

QString CableLibrary::path() {
    return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/cables.json";
}

CableLibrary::CableLibrary(Session& session, QWidget* parent) : QDialog(parent), session_(session) {
    setWindowTitle("The firm's cables");
    resize(520, 420);
    auto* column = new QVBoxLayout(this);
    search_ = new QLineEdit;
    search_->setPlaceholderText("words: class, size, screen, name");
    search_->setAccessibleName("Words to look for among cables");
    list_ = new QListWidget;
    list_->setAccessibleName("Cables of the firm");
    column->addWidget(search_);
    column->addWidget(list_, 1);
    auto* row = new QHBoxLayout;
    const auto add = [&](const QString& words, auto act) {
        auto* button = new QPushButton(words);
        button->setAutoDefault(false);
        row->addWidget(button);
        connect(button, &QPushButton::clicked, this, act);
        return button;
    };
    take_ = add("Take into this design", [this] {
        if (take(chosen())) accept();
    });
    add("Put this design's in", [this] { put_in(); });
    remove_ = add("Remove", [this] { remove(chosen()); });
    add("Import…", [this] {
        const auto from = QFileDialog::getOpenFileName(this, "Import cables", {}, "Cables (*.json)");
        if (!from.isEmpty())
            if (auto ok = import(from); !ok) session_.tell(ok.error());
    });
    add("Export…", [this] {
        const auto to = QFileDialog::getSaveFileName(this, "Export cables", "cables.json", "Cables (*.json)");
        if (!to.isEmpty())
            if (auto ok = export_to(to); !ok) session_.tell(ok.error());
    });
    column->addLayout(row);
    connect(search_, &QLineEdit::textChanged, this, &CableLibrary::search);
    connect(list_, &QListWidget::itemDoubleClicked, this, [this] {
        if (take(chosen())) accept();
    });
    if (QFile::exists(path())) {
        auto cables = load(path());
        damaged_ = !cables; // it stays as it is: what is written goes beside it
        if (cables)
            cables_ = std::move(*cables);
        else
            session_.tell(cables.error());
    }
    fill();
}

void CableLibrary::fill() {
    search(search_->text());
}

void CableLibrary::search(const QString& words) {
    list_->clear();
    const auto wanted = words.split(' ', Qt::SkipEmptyParts);
    for (std::size_t i = 0; i < cables_.size(); ++i) {
        const auto text = words_of(cables_[i]);
        if (!std::all_of(wanted.begin(), wanted.end(),
                         [&](const QString& w) { return text.contains(w, Qt::CaseInsensitive); }))
            continue;
        auto* item = new QListWidgetItem(text);
        item->setData(Qt::UserRole, static_cast<int>(i));
        list_->addItem(item);
    }
    if (list_->count()) list_->setCurrentRow(0);
    for (auto* b : {take_, remove_}) b->setEnabled(list_->count() > 0);
}

int CableLibrary::chosen() const {
    const auto* item = list_->currentItem();
    return item ? item->data(Qt::UserRole).toInt() : -1;
}

Result<void> CableLibrary::keep(std::vector<Cable> cables) {
    QDir().mkpath(QFileInfo(path()).path());
    if (damaged_) { // what cannot be read is kept, under a name that nothing has yet
        auto aside = path() + ".damaged";
        for (int k = 2; QFile::exists(aside); ++k) aside = QString("%1.damaged-%2").arg(path()).arg(k);
        if (!QFile::rename(path(), aside))
            return refuse("cables.json", "it cannot be read, nor put aside", "Move it away, and do it again");
        damaged_ = false;
    }
    if (auto ok = write_output(path().toStdString(), cable_library_json(cables).dump(1) + "\n"); !ok)
        return ok;
    cables_ = std::move(cables);
    fill();
    return {};
}

bool CableLibrary::kept(std::vector<Cable> cables) {
    const auto ok = keep(std::move(cables));
    if (!ok) session_.tell(ok.error());
    return ok.has_value();
}

bool CableLibrary::take(int index) {
    if (index < 0 || index >= static_cast<int>(cables_.size())) return false;
    auto cable = cables_[static_cast<std::size_t>(index)];
    session_.document.edit("Take a cable of the firm", {}, [&](Job& job) {
        auto id = cable.id;
        for (int k = 2; job.find_cable(id); ++k) id = cable.id + "-" + std::to_string(k);
        cable.id = id;
        auto& design = *job.find_design(job.open_design);
        design.cable_id = id;
        job.cables.push_back(cable);
    });
    // The class that the duty's own pack has for it, as Duty offers it.
    const auto packs = packs_of(session_.document.job(), session_.library());
    const auto& duty = session_.document.design().duty;
    for (const auto& pack : packs ? *packs : std::vector<StandardsPack>())
        if (const auto* of_cable =
                pack.id == duty.standard ? pack.for_cable(cable.insulation_class_kV) : nullptr;
            of_cable && of_cable->class_kV != duty.class_kV)
            session_.tell({"Duty",
                           QString("its class is %1 kV, this cable is made for %2 kV")
                               .arg(duty.class_kV)
                               .arg(cable.insulation_class_kV)
                               .toStdString(),
                           "Take the cable's class in Duty"});
    return true;
}

bool CableLibrary::put_in() {
    auto cables = cables_;
    put(cables, session_.document.cable());
    return kept(std::move(cables));
}

bool CableLibrary::remove(int index) {
    if (index < 0 || index >= static_cast<int>(cables_.size())) return false;
    auto cables = cables_;
    cables.erase(cables.begin() + index);
    return kept(std::move(cables));
}

Result<int> CableLibrary::import(const QString& from) {
    const auto read = load(from);
    if (!read) return tl::unexpected(read.error());
    auto cables = cables_;
    for (const auto& cable : *read) put(cables, cable);
    if (auto ok = keep(std::move(cables)); !ok) return tl::unexpected(ok.error());
    return static_cast<int>(read->size());
}

Result<void> CableLibrary::export_to(const QString& to) const {
    return write_output(to.toStdString(), cable_library_json(cables_).dump(1) + "\n");
}

} // namespace ng::app
