#include "app/model/safety_copy.h"
#include "io/file.h"
#include <QCryptographicHash>
#include <QDir>
#include <QFileInfo>
#include <QStandardPaths>
#include <QUuid>
#include <algorithm>
#include <nlohmann/json.hpp>

namespace ng::app {
namespace {

QString folder() {
    const auto name = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/autosave";
    QDir().mkpath(name);
    return name;
}

/// What the names of all copies of this job begin with.
QString prefix(const QString& path) {
    if (path.isEmpty()) return "never-saved-";
    return QString(QCryptographicHash::hash(path.toUtf8(), QCryptographicHash::Sha1).toHex()) + "-";
}

QString typed_file(const QString& copy) {
    return copy + ".typed";
}
QString lock_file(const QString& copy) {
    return copy + ".lock";
}

/// Whether a session that runs holds this copy.
bool is_held(const QString& copy) {
    QLockFile lock(lock_file(copy));
    lock.setStaleLockTime(0);
    if (!lock.tryLock()) return true;
    lock.unlock();
    return false;
}

} // namespace

QStringList LeftCopy::differences(const Job& now, int most) const {
    QStringList out;
    if (!job) return out;
    const auto patch = nlohmann::json::diff(nlohmann::json(write_job(now)), nlohmann::json(write_job(*job)));
    for (const auto& step : patch) {
        if (out.size() == most) {
            out << QString("and %1 more").arg(patch.size() - static_cast<std::size_t>(most));
            break;
        }
        const auto place = QString::fromStdString(step["path"].get<std::string>()).mid(1).replace('/', ' ');
        const auto value = step.contains("value") ? step["value"] : nlohmann::json();
        out << (value.is_primitive() && !value.is_null()
                    ? QString("%1: %2").arg(place, QString::fromStdString(value.dump()).left(40))
                    : place);
    }
    return out;
}

SafetyCopy::SafetyCopy(const QString& path)
    : path_(path),
      file_(QString("%1/%2%3.ngjob").arg(folder(), prefix(path), QUuid::createUuid().toString(QUuid::Id128))),
      alive_(std::make_unique<QLockFile>(lock_file(file_))) {
    alive_->setStaleLockTime(0);
}

SafetyCopy::~SafetyCopy() = default;

bool SafetyCopy::exists() const {
    return QFileInfo::exists(file_);
}

Result<void> SafetyCopy::write(const Job& job, const QString& typed) {
    if (!alive_->isLocked()) alive_->tryLock();
    const auto failed = [&](InputError error) {
        error.item = "safety copy of " + (path_.isEmpty() ? std::string("a job never saved")
                                                          : QFileInfo(path_).fileName().toStdString());
        return tl::unexpected(error);
    };
    if (auto ok = save_job(job, file_.toStdString()); !ok) return failed(ok.error());
    if (typed.isEmpty())
        QFile::remove(typed_file(file_));
    else if (auto ok = write_file_safely(typed_file(file_).toStdString(), typed.toStdString()); !ok)
        return failed(ok.error());
    return {};
}

void SafetyCopy::remove() {
    QFile::remove(file_);
    QFile::remove(typed_file(file_));
    alive_->unlock();
}

std::vector<LeftCopy> SafetyCopy::left_for(const QString& path) {
    std::vector<LeftCopy> out;
    const QDir dir(folder());
    for (const auto& entry : dir.entryInfoList({prefix(path) + "*.ngjob"}, QDir::Files, QDir::Time)) {
        LeftCopy copy;
        copy.file = entry.absoluteFilePath();
        if (is_held(copy.file)) continue;
        copy.kept = entry.lastModified();
        if (!path.isEmpty()) copy.saved = QFileInfo(path).lastModified();
        if (auto job = load_job(copy.file.toStdString()))
            copy.job = std::move(*job);
        else
            copy.damage = QString::fromStdString(job.error().message());
        if (const auto typed = read_file(typed_file(copy.file).toStdString(), 1 << 20))
            copy.typed = QString::fromStdString(*typed);
        out.push_back(std::move(copy));
    }
    return out;
}

void SafetyCopy::throw_away(const LeftCopy& copy) {
    QFile::remove(copy.file);
    QFile::remove(typed_file(copy.file));
    QFile::remove(lock_file(copy.file));
}

} // namespace ng::app
