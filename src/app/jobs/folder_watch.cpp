#include "jobs/folder_watch.h"

#include <QDateTime>
#include <QDir>

namespace nuvat {

FolderWatch::FolderWatch(QObject* parent) : QObject(parent) {
    constexpr int kMoment = 400; // ms
    m_timer.setInterval(kMoment);
    connect(&m_timer, &QTimer::timeout, this, &FolderWatch::look);
    connect(&m_watcher, &QFileSystemWatcher::directoryChanged, this, &FolderWatch::look);
}

void FolderWatch::start(const QString& folder) {
    stop();
    m_folder = folder;
    const auto names = QDir(folder).entryList(QDir::Files);
    m_known = QSet<QString>(names.begin(), names.end());
    m_watcher.addPath(folder);
}

void FolderWatch::stop() {
    if (!m_folder.isEmpty()) {
        m_watcher.removePath(m_folder);
    }
    m_timer.stop();
    m_folder.clear();
    m_known.clear();
    m_growing.clear();
}

void FolderWatch::look() {
    QStringList done;
    for (const QFileInfo& file : QDir(m_folder).entryInfoList(QDir::Files, QDir::Time | QDir::Reversed)) {
        if (m_known.contains(file.fileName())) {
            continue;
        }
        const std::pair now(file.size(), file.lastModified().toMSecsSinceEpoch());
        const auto before = m_growing.find(file.fileName());
        if (before != m_growing.end() && before->second == now && now.first > 0) {
            m_growing.erase(before);
            m_known.insert(file.fileName());
            done << file.filePath();
        } else {
            m_growing[file.fileName()] = now;
        }
    }
    m_growing.empty() ? m_timer.stop() : m_timer.start();
    if (!done.isEmpty()) {
        Q_EMIT arrived(done);
    }
}

} // namespace nuvat
