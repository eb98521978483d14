#include "actions/actions.h"

#include <QWidget>

namespace nuvat {

Actions::Actions(QWidget* window) : QObject(window), m_window(window) {}

QAction* Actions::add(const QString& id, const QString& text, const QKeySequence& shortcut, std::function<void()> run,
                      std::function<bool()> isEnabled) {
    auto* action = new QAction(text, m_window);
    action->setObjectName(id);
    action->setShortcut(shortcut);
    connect(action, &QAction::triggered, this, [run = std::move(run)] { run(); });
    m_window->addAction(action);
    m_all.push_back(action);
    m_byId.insert(id, action);
    if (isEnabled) {
        m_rules.emplace_back(action, std::move(isEnabled));
    }
    return action;
}

QAction* Actions::get(const QString& id) const {
    return m_byId.value(id, nullptr);
}

void Actions::refresh() {
    for (const auto& [action, isEnabled] : m_rules) {
        action->setEnabled(isEnabled());
    }
}

} // namespace nuvat
