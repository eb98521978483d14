#pragma once

#include "nuvat/batch/command.h"

#include <functional>
#include <memory>

namespace nuvat {

struct Evaluation;

/// What happened to a command.
enum class EventKind { Done, Undone, Redone };

/// One line of the history: nothing is ever removed from it, an undo is a line of its own.
struct HistoryLine {
    std::int64_t timeMillis = 0;
    EventKind kind = EventKind::Done;
    std::string label;
    std::string reason;
    Subject subject = Subject::Edit;
};

/// Where commands are kept as they happen. Implemented by the store; a document without one lives in memory only.
class Journal {
public:
    virtual ~Journal() = default;
    /// Keeps one event and its effect in one transaction. `batch` already is in the state after it.
    /// @param index the command's position in Document::commands(); a Done command drops those from index on
    virtual Result<void> record(const Batch& batch, const Command& command, std::size_t index,
                                const HistoryLine& line) = 0;
    /// May keep what was found in readings, so that it is known when the batch is opened again. Never fails: nothing
    /// depends on it.
    virtual void remember(const Batch&, const Evaluation&) {}
};

/// What a document is made from: a fresh batch, or what the store read.
struct DocumentState {
    Batch batch;
    std::vector<Command> commands;
    std::size_t done = 0; ///< how many of the commands are in effect
    std::vector<HistoryLine> history;
};

/// Owns a batch and changes it only through commands, each of which can be undone and redone, also after closing.
/// Not thread-safe: belongs to one thread.
class Document {
public:
    using Clock = std::function<std::int64_t()>; ///< milliseconds since 1970-01-01 UTC
    explicit Document(DocumentState state = {}, Clock clock = {});

    const Batch& batch() const { return m_state.batch; }
    const std::vector<Command>& commands() const { return m_state.commands; }
    const std::vector<HistoryLine>& history() const { return m_state.history; }
    const DocumentState& state() const { return m_state; }
    std::int64_t now() const { return m_clock(); }
    /// Counts up with every change; results computed from an older revision are stale.
    std::uint64_t revision() const { return m_revision; }

    /// Does the command (nothing when it has no changes) and records it. When it cannot be recorded the batch is as
    /// before and the journal's Error is returned.
    Result<void> apply(Command command);
    /// The same for what a command function returned; its Error is passed on.
    Result<void> apply(Result<Command> command);
    bool canUndo() const { return m_state.done > 0; }
    bool canRedo() const { return m_state.done < m_state.commands.size(); }
    Result<void> undo(); ///< nothing when there is nothing to undo
    Result<void> redo();
    std::string undoLabel() const; ///< label of the command undo() would take back; empty when none
    std::string redoLabel() const;

    void setJournal(std::unique_ptr<Journal> journal) { m_journal = std::move(journal); }
    Journal* journal() const { return m_journal.get(); }
    /// Called after every change.
    void onChanged(std::function<void()> listener) { m_listeners.push_back(std::move(listener)); }

private:
    Result<void> step(const Command& command, std::size_t index, bool isUndo, HistoryLine line);
    DocumentState m_state;
    Clock m_clock;
    std::unique_ptr<Journal> m_journal;
    std::vector<std::function<void()>> m_listeners;
    std::uint64_t m_revision = 0;
};

/// The wall clock in milliseconds since 1970-01-01 UTC.
std::int64_t systemMillis();

} // namespace nuvat
