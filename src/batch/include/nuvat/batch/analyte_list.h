#pragma once

#include "nuvat/batch/command.h"

namespace nuvat {

/// An analyte as a list of expected ones has it.
struct ListedAnalyte {
    std::string name;
    std::optional<double> time;   ///< expected, in the unit of the traces
    std::optional<double> window; ///< half of it, > 0
    std::string quantifier;       ///< channel; empty: that of the analyte before, or the first of the batch
    struct Other {
        std::string channel;
        std::optional<double> ratio; ///< expected, in percent
    };
    std::vector<Other> qualifiers;
    std::string internal;         ///< name of the analyte it is divided by; empty: none
    std::optional<double> added;  ///< where it is an internal standard: its usual concentration
    std::optional<double> first;  ///< concentration of S1
    std::optional<double> factor; ///< each next level is the one before divided by it, > 1
    std::optional<int> levels;
    std::string unit;
};

/// Makes the analytes of a list those of the method. One of the same name keeps what the list does not say; others
/// start on the terms of the first analyte, or where the method is untouched by a line weighted 1/x and the criteria of
/// chromatographic assays. Analytes that the list does not name stay behind those it names, but for the one that a new
/// batch begins with.
/// @return analytes.no-name, analytes.twice, analytes.no-time for a new one without a time, analytes.internal for an
/// internal standard that is not in list or method, method.no-analyte with an empty list, the errors of setMethod and
/// setSeries
Result<Command> setAnalytes(const Batch& batch, const std::vector<ListedAnalyte>& list);

/// What is taken over from one analyte to all others of the method.
struct SharedTerms {
    bool unit = false, fit = false, window = false, limits = false, figure = false;
};
/// Gives all analytes the unit, the model with weighting and interval, the width of the window, or the limits of the
/// separation of one of them. Internal standards keep their unit.
/// @return method.no-analyte
Result<Command> applyToAll(const Batch& batch, int analyte, const SharedTerms& terms);

/// Makes a qualifier of an analyte its quantifier and the quantifier a qualifier in its place; a typed ratio turns into
/// its inverse. @return method.no-analyte, method.qualifier where there is no such qualifier
Result<Command> swapQuantifier(const Batch& batch, int analyte, std::size_t qualifier);

/// Channels grouped into analytes of so many each, down the sorted list: the first of a group is the quantifier, the
/// others its qualifiers. @return method.qualifier when the channels do not part evenly
Result<Command> groupChannels(const Batch& batch, std::size_t together);
/// The same by what names share before their last blank, hyphen or underscore: "caffeine 195>138", "caffeine 195>110".
Result<Command> groupChannelsByName(const Batch& batch);

} // namespace nuvat
