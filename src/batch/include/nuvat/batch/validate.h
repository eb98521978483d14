#pragma once

#include "nuvat/batch/command.h"

namespace nuvat {

// What evaluate() relies on. The commands, the tables of a batch file and its undo entries are all judged by these, so
// that what an edit refuses no file brings in, and what an edit accepts every file gives back.
// @return layout.*, method.*, batch.* with a sentence that names the value

Result<void> validate(const BatchInfo& info);
Result<void> validate(const Carrier& carrier);
Result<void> validate(const Run& run);
Result<void> validate(const Method& method);
/// Its head; what the payload holds is looked at by itself, so that nothing is read for it.
Result<void> validate(const Reading& reading);
/// @param source named in the sentence
Result<void> validate(const Grid& grid, const std::string& source);
Result<void> validate(const InUse& use);
Result<void> validate(const Assignment& assignment);
Result<void> validate(const Level& level);
Result<void> validate(const QcSample& qc);
Result<void> validate(const Sample& sample);
Result<void> validate(const Preparation& preparation);
Result<void> validate(const SignalRule& rule);
Result<void> validate(const HandEdits& edits);
/// @param source what it is called in sentences
Result<void> validate(const Trace& trace, const std::string& source);
Result<void> validate(const Exclusion& exclusion);
Result<void> validate(const Override& decision);

/// Every item before and after.
Result<void> validate(const Command& command);
/// Every item, and that places, runs and exclusions lie on a carrier.
Result<void> validate(const Batch& batch);

/// Largest plate.
inline constexpr int kMostRows = 32;
inline constexpr int kMostColumns = 48;
/// Far beyond what a day's run holds.
inline constexpr int kMostRuns = 10'000;
inline constexpr std::size_t kMostCarriers = 200;
/// Far beyond what a panel measures; keeps a damaged file from asking for all memory.
inline constexpr std::size_t kMostAnalytes = 500;

} // namespace nuvat
