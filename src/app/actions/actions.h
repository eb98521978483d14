#pragma once

#include <functional>
#include <QAction>
#include <QMap>
#include <QObject>
#include <vector>

namespace nuvat {

/// Every action of the window, made once, by id: text, shortcut, what it does and when it can be done. Menus, the
/// finder and shortcuts use the same object.
class Actions : public QObject {
    Q_OBJECT
public:
    explicit Actions(QWidget* window);
    /// @param isEnabled may be empty: always
    QAction* add(const QString& id, const QString& text, const QKeySequence& shortcut, std::function<void()> run,
                 std::function<bool()> isEnabled = {});
    QAction* get(const QString& id) const;
    const std::vector<QAction*>& all() const { return m_all; }
    /// Asks every rule again.
    void refresh();

private:
    QWidget* m_window;
    std::vector<QAction*> m_all;
    QMap<QString, QAction*> m_byId;
    std::vector<std::pair<QAction*, std::function<bool()>>> m_rules;
};

} // namespace nuvat
