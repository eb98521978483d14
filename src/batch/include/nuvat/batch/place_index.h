#pragma once

#include "nuvat/batch/batch.h"

#include <span>
#include <vector>

namespace nuvat {

/// Which places hold which group. Made in one pass over the layout and then asked without a scan; an Evaluation carries
/// the one of its batch. It stays right until the layout changes.
class PlaceIndex {
public:
    PlaceIndex() = default;
    explicit PlaceIndex(const Batch& batch);

    /// Groups in use in the order of their roles (standards, blanks, QCs, unknowns), then of their numbers.
    const std::vector<Assignment>& groups() const { return m_groups; }
    /// Places of a replicate group that the plate holds, row by row; none for a group that is not in use.
    std::span<const Place> members(Assignment group) const;
    /// Groups of a role, by number.
    std::span<const Assignment> groupsOf(Role role) const;
    /// Numbers in use of a role, ascending.
    std::vector<int> numbersOf(Role role) const;

private:
    std::vector<Assignment> m_groups;
    std::vector<std::size_t> m_begins; ///< of each group's places; one more than groups
    std::vector<Place> m_places;
};

} // namespace nuvat
