#pragma once

#include "nuvat/batch/command.h"

namespace nuvat {

/// What goes by the names of runs where a method has no rules of its own: "*double blank*" and "*zero blank*" are
/// double blanks, "*blank*" blanks, "std*#*", "cal*#*", "standard*#*" and "level*#*" standards, "qc*" and "*control*"
/// QCs, and everything else is an unknown. Common practice.
const std::vector<NameRule>& usualNameRules();

/// What the first rule that fits says of a name.
struct NamedRole {
    Role role = Role::Unknown;
    std::string key; ///< what replicates share: the text of "#", or the name without a count of replicates at its end
};
/// @return nothing where no rule fits
std::optional<NamedRole> roleOfName(const std::vector<NameRule>& rules, const std::string& name);

/// Gives the runs of a list that have no role yet those that their names say. Runs of one role and key are replicates
/// and share a number; standards are counted in the order of their numbers, others in the order of their first run.
/// Unknowns and QCs take the name of their first run.
/// @return batch.carrier, review.no-names when no run without a role has a name that fits
Result<Command> rolesFromNames(const Batch& batch, int carrier);

} // namespace nuvat
