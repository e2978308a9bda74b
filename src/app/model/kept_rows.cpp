#include "app/model/kept_rows.h"
#include "app/model/text.h"
#include "units/parallel.h"
#include <QDir>
#include <QStandardPaths>

namespace ng::app {
namespace {
constexpr int kept_studies = 40;

/// Rows that this program cannot go on with keep what they hold, under another name; whether that was
/// possible.
bool set_aside(const QString& path) {
    for (int n = 1; n < 1000; ++n)
        if (const auto aside = QString("%1.set-aside-%2").arg(path).arg(n); !QFile::exists(aside))
            return QFile::rename(path, aside);
    return false;
}
} // namespace

KeptRows::KeptRows(const Study& study) {
    QDir folder(QStandardPaths::writableLocation(QStandardPaths::CacheLocation) + "/studies");
    folder.mkpath(".");
    const auto path = folder.filePath(q(study.name()) + ".csv");
    lock_ = std::make_unique<QLockFile>(path + ".lock");
    if (!lock_->tryLock(0)) {
        why_not_ = "another window builds the same";
        return;
    }
    auto opened = RowsFile::open(path.toStdString(), study, {});
    if (!opened && set_aside(path)) opened = RowsFile::open(path.toStdString(), study, {});
    if (opened)
        file_ = std::move(*opened);
    else
        why_not_ = q(opened.error().problem);
    const auto files = folder.entryInfoList({"*.csv"}, QDir::Files, QDir::Time);
    for (int k = kept_studies; k < files.size(); ++k) QFile::remove(files[k].filePath());
}

void KeptRows::add(const Study& study, const StudyRow& row) {
    if (!file_ || file_->add(study, row)) return;
    file_.reset();
    why_not_ = "no room for its rows";
}

StudyTable build_rows(const Study& study, KeptRows& kept, const CancelFlag& cancel,
                      const std::function<void(const StudyTable&)>& on_rows) {
    StudyTable table;
    table.plan = study.plan();
    table.checks = study.checks();
    table.rows = kept.before();
    on_rows(table);
    run_rows(study, {}, table.rows.size(), static_cast<int>(usable_threads()), &cancel,
             [&](const StudyRow& row) {
                 kept.add(study, row);
                 table.rows.push_back(row);
                 on_rows(table);
             });
    return table;
}

} // namespace ng::app
