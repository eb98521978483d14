#pragma once

#include <QWidget>

class QVBoxLayout;

namespace nuvat {

/// Shown when no batch is open: what to do next.
class StartPage : public QWidget {
    Q_OBJECT
public:
    explicit StartPage(QWidget* parent);

Q_SIGNALS:
    void openAsked();
    void importAsked();
    void demoAsked();
    void newAsked();
    void recentChosen(const QString& path);

public:
    /// Batches that were open lately, newest first: path and title.
    void setRecent(const QList<std::pair<QString, QString>>& recent);

private:
    QVBoxLayout* m_recent;
    QWidget* m_recentCard;
};

} // namespace nuvat
