#pragma once

#include <QWidget>

class QLabel;
class QMenu;
class QPushButton;
class QScrollArea;
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
    void demoChosen(const QString& name);
    void newAsked();
    void recentChosen(const QString& path);

public:
    /// The methods that a batch can begin with.
    void setMethods(QMenu* methods);
    /// Batches that were open lately, newest first: path and title.
    void setRecent(const QList<std::pair<QString, QString>>& recent);

    /// Batches that were never saved under a name, the one last changed first: path and what to call it; and where
    /// they are kept.
    void setUnnamed(const QList<std::pair<QString, QString>>& unnamed, const QString& folder);

private:
    QLayout* makeButtons();
    QLayout* makeDemos();
    QLayout* makeCards();
    void fill(QVBoxLayout* list, const QList<std::pair<QString, QString>>& batches);
    QPushButton* m_fromMethod;
    QVBoxLayout* m_recent;
    QVBoxLayout* m_unnamed;
    QScrollArea* m_unnamedArea;
    QWidget* m_unnamedCard;
    QLabel* m_where;
    QWidget* m_recentCard;
};

} // namespace nuvat
