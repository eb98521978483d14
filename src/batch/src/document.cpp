#include "nuvat/batch/document.h"

#include <chrono>

namespace nuvat {

std::int64_t systemMillis() {
    using namespace std::chrono;
    return duration_cast<milliseconds>(system_clock::now().time_since_epoch()).count();
}

Document::Document(DocumentState state, Clock clock)
    : m_state(std::move(state)), m_clock(clock ? std::move(clock) : Clock(systemMillis)) {}

Result<void> Document::step(const Command& command, std::size_t index, bool isUndo, HistoryLine line) {
    line.timeMillis = m_clock();
    line.label = command.label;
    line.reason = command.reason;
    line.subject = subjectOf(command);
    applyChanges(m_state.batch, command, isUndo);
    if (m_journal) {
        if (auto recorded = m_journal->record(m_state.batch, command, index, line); !recorded) {
            applyChanges(m_state.batch, command, !isUndo);
            return recorded;
        }
    }
    m_state.history.push_back(std::move(line));
    ++m_revision;
    return {};
}

Result<void> Document::apply(Command command) {
    if (command.changes.empty()) {
        return {};
    }
    command.timeMillis = m_clock();
    if (auto done = step(command, m_state.done, false, {.kind = EventKind::Done}); !done) {
        return done;
    }
    m_state.commands.resize(m_state.done);
    m_state.commands.push_back(std::move(command));
    ++m_state.done;
    for (const auto& listener : m_listeners) {
        listener();
    }
    return {};
}

Result<void> Document::apply(Result<Command> command) {
    if (!command) {
        return tl::unexpected(command.error());
    }
    return apply(std::move(*command));
}

Result<void> Document::undo() {
    if (!canUndo()) {
        return {};
    }
    const std::size_t index = m_state.done - 1;
    if (auto done = step(m_state.commands[index], index, true, {.kind = EventKind::Undone}); !done) {
        return done;
    }
    m_state.done = index;
    for (const auto& listener : m_listeners) {
        listener();
    }
    return {};
}

Result<void> Document::redo() {
    if (!canRedo()) {
        return {};
    }
    const std::size_t index = m_state.done;
    if (auto done = step(m_state.commands[index], index, false, {.kind = EventKind::Redone}); !done) {
        return done;
    }
    m_state.done = index + 1;
    for (const auto& listener : m_listeners) {
        listener();
    }
    return {};
}

std::string Document::undoLabel() const {
    return canUndo() ? m_state.commands[m_state.done - 1].label : std::string();
}
std::string Document::redoLabel() const {
    return canRedo() ? m_state.commands[m_state.done].label : std::string();
}

} // namespace nuvat
