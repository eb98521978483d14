#pragma once

#include "nuvat/batch/batch.h"

namespace nuvat {

/// Runs of a list that share a curve: samples, with the standards run before and after them.
struct Bracket {
    int carrier = 1;
    int number = 0;          ///< in its list: 1, 2, …; 0: no bracket, a carrier or the batch as a whole
    int first = 0, last = 0; ///< rows from its first standard to its last, or as far as the list goes without one
    /// Rows of which it takes the samples and QCs. Standards and blanks between two stretches of samples belong to
    /// both, a QC among them to the one before.
    int ownFirst = 0, ownLast = 0;
    bool holds(Place place, Role role) const;
    bool operator==(const Bracket&) const = default;
};

/// The brackets of a run list, in order. Standards that follow each other, with whatever but samples is run between
/// them, are one set; each stretch of samples is read off from the set before it and the one after it, the first and
/// the last from what there is. Source: common practice (bracketing standards).
/// @return one bracket of all where there are samples on one side only, none for a plate or a list without roles
std::vector<Bracket> bracketsOf(const Batch& batch, int carrier);
/// The same of all run lists.
std::vector<Bracket> bracketsOf(const Batch& batch);
/// "bracket 2"
std::string bracketName(int number);

} // namespace nuvat
