#include "settings/settings.h"

#include <QFile>
#include <QFileInfo>
#include <QSettings>

namespace nuvat::settings {

namespace {
// All keys of the application; analysis parameters belong to the batch, never here.
const QString kRecentPaths = QStringLiteral("recent/paths");    // string list, machine-local
const QString kRecentTitles = QStringLiteral("recent/titles");  // string list, machine-local
const QString kInstrument = QStringLiteral("instrument/place"); // string, machine-local
constexpr int kMostRecent = 6;
} // namespace

QList<std::pair<QString, QString>> recentBatches() {
    const QSettings settings;
    const QStringList paths = settings.value(kRecentPaths).toStringList();
    const QStringList titles = settings.value(kRecentTitles).toStringList();
    QList<std::pair<QString, QString>> out;
    for (qsizetype i = 0; i < std::min(paths.size(), titles.size()); ++i) {
        if (QFileInfo::exists(paths[i])) {
            out.append({paths[i], titles[i]});
        }
    }
    return out;
}

void rememberBatch(const QString& given, const QString& title) {
    const QString path = QFileInfo(given).absoluteFilePath(); // the next start may be in another folder
    auto recent = recentBatches();
    recent.removeIf([&](const auto& entry) { return entry.first == path; });
    recent.prepend({path, title});
    QStringList paths;
    QStringList titles;
    for (const auto& [filePath, fileTitle] : recent.first(std::min<qsizetype>(recent.size(), kMostRecent))) {
        paths << filePath;
        titles << fileTitle;
    }
    QSettings settings;
    settings.setValue(kRecentPaths, paths);
    settings.setValue(kRecentTitles, titles);
    settings.sync();
    // Paths and titles name samples and customers; other people of the machine need not read them.
    QFile::setPermissions(settings.fileName(), QFile::ReadOwner | QFile::WriteOwner);
}

QString instrumentPlace() {
    return QSettings().value(kInstrument).toString();
}

void rememberInstrument(const QString& place) {
    QSettings().setValue(kInstrument, place);
}

} // namespace nuvat::settings
