#pragma once

#include "nuvat/batch/command.h"
#include "nuvat/batch/document.h"

#include <filesystem>

namespace nuvat {

/// What the journal of a run says of it.
struct JournalHead {
    std::string batch; ///< uid
    Place place;
    std::string name;       ///< of the run
    std::string instrument; ///< its model
    std::string xUnit;
    std::vector<std::string> channels;
    std::int64_t injectedMillis = 0;
};

/// A file beside a batch that holds what was received of a run while it is measured. Written to the disk as it grows,
/// so that a program or machine that stops loses no more than came since the last write.
class RunJournal {
public:
    /// @param batch its file; the journal is BATCH.run-CARRIER-ROW
    RunJournal(const std::filesystem::path& batch, JournalHead head);
    ~RunJournal();
    RunJournal(const RunJournal&) = delete;
    RunJournal& operator=(const RunJournal&) = delete;

    /// Adds what came since the last time; what begins anew (fewer samples, another injection) is written as a whole.
    /// @return file.cannot-write; the next call tries again
    Result<void> write(std::int64_t injectedMillis, const std::vector<double>& x,
                       const std::vector<std::vector<double>>& y);
    void remove();
    const std::filesystem::path& path() const { return m_path; }

private:
    std::filesystem::path m_path;
    JournalHead m_head;
    int m_file = -1;
    std::size_t m_written = 0; ///< samples
    bool m_isBroken = true;    ///< the file has to be written from its beginning
};

/// A run that was being measured when a program stopped.
struct RecoveredRun {
    JournalHead head;
    ImportedRun run;
    std::filesystem::path journal;
};
/// What journals beside a batch hold. A line that was cut in writing is left out; journals of another batch, and those
/// without three whole samples, are passed over.
std::vector<RecoveredRun> journalsOf(const std::filesystem::path& batch, const std::string& uid);
/// Takes one into the batch, marked as failed; a command without changes where the batch holds it already, because the
/// program stopped between keeping it and removing its journal.
Result<Command> keepRecovered(const Batch& batch, const RecoveredRun& run, std::int64_t nowMillis);
/// Takes them into the batch, marked as failed, and removes their files. A run that the batch holds already, because
/// the program stopped between keeping it and removing its journal, is not taken again.
/// @return how many were taken; the errors of the document
Result<std::size_t> recoverRuns(Document& document, const std::filesystem::path& batch);

} // namespace nuvat
