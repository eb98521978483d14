#pragma once

#include <map>
#include <QFileSystemWatcher>
#include <QObject>
#include <QSet>
#include <QTimer>

namespace nuvat {

/// Looks at a folder in which an instrument leaves its files, and tells of each that is new once it is no longer
/// written: when it has had the same size and time for a moment. Files that were there before, and hidden ones, are not
/// told of.
class FolderWatch : public QObject {
    Q_OBJECT
public:
    explicit FolderWatch(QObject* parent);
    void start(const QString& folder);
    void stop();
    QString folder() const { return m_folder; } ///< empty: none is watched

Q_SIGNALS:
    void arrived(const QStringList& paths);

private:
    void look();
    QFileSystemWatcher m_watcher;
    QTimer m_timer; ///< while files are being written
    QString m_folder;
    QSet<QString> m_known;
    std::map<QString, std::pair<qint64, qint64>> m_growing; ///< size and time when they were looked at last
};

} // namespace nuvat
