#pragma once

#include <optional>
#include <string_view>
#include <vector>

namespace nuvat {

/// What sits in a place.
enum class Role {
    Empty,
    Standard,
    Blank, ///< what is subtracted: everything but the analyte
    Qc,
    Unknown,
    DoubleBlank,     ///< a blank without internal standard as well; no part of the blank that is subtracted
    ReagentBlank,    ///< the reagents alone, or non-specific binding; no part of the blank that is subtracted
    CheckStandard,   ///< a standard measured among the samples: it is read off, not fitted
    NegativeControl, ///< a sample that is known to hold no analyte; cut-offs come from these
    Spike,           ///< a sample with analyte added; it has the number of its sample
    Addition,        ///< a sample with standard added, for standard addition; number of its sample, step by preparation
};
std::string_view name(Role role); ///< "empty", "standard", "check-standard", …: stable, for files
std::optional<Role> roleFromName(std::string_view text);
/// "standard", "QC", "check standard": for sentences.
std::string_view roleWord(Role role);
/// All but Empty, in the order in which they are offered.
const std::vector<Role>& rolesInUse();

/// Whether places of it are told apart by numbers. Blanks of a kind are all the same.
bool isCounted(Role role);
/// Whether it is one of the blanks.
bool isBlank(Role role);
/// Whether its response is read off the curve and gives a result.
bool isReadOff(Role role);
/// Whether it has a nominal concentration that the read-off is held against.
bool hasNominal(Role role);
/// Whether its number is that of an unknown.
bool isOfSample(Role role);

} // namespace nuvat
