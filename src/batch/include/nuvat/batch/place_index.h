#pragma once

#include "nuvat/batch/batch.h"
#include "nuvat/batch/brackets.h"

#include <span>
#include <vector>

namespace nuvat {

/// Where each place stands in a list of all places, and which places hold which group. Made in one pass over the layout
/// and then asked without a scan; an Evaluation carries the one of its batch. It stays right until the layout changes.
class PlaceIndex {
public:
    PlaceIndex() = default;
    explicit PlaceIndex(const Batch& batch) : PlaceIndex(batch, Bracket{.carrier = 0}) {}
    /// With the groups of one carrier alone, or of one bracket of it. @param of its carrier 0: of all carriers
    PlaceIndex(const Batch& batch, const Bracket& of);

    /// Number of places of all carriers.
    std::size_t size() const { return m_size; }
    /// Where the place stands in a list of all: by carrier, row and column; absent when no carrier holds it.
    std::optional<std::size_t> find(Place place) const;
    const std::map<int, Carrier>& carriers() const { return m_carriers; }
    /// See placeName.
    std::string name(Place place) const { return placeName(m_carriers, place); }

    /// Groups in use in the order of their roles (standards, blanks, QCs, unknowns), then of their numbers.
    const std::vector<Assignment>& groups() const { return m_groups; }
    /// Places of a replicate group that a carrier holds, row by row; none for a group that is not in use.
    std::span<const Place> members(Assignment group) const;
    /// Groups of a role, by number.
    std::span<const Assignment> groupsOf(Role role) const;
    /// Numbers in use of a role, ascending, each once.
    std::vector<int> numbersOf(Role role) const;

private:
    std::map<int, Carrier> m_carriers;
    std::map<int, std::size_t> m_offsets; ///< of each carrier's first place
    std::size_t m_size = 0;
    std::vector<Assignment> m_groups;
    std::vector<std::size_t> m_begins; ///< of each group's places; one more than groups
    std::vector<Place> m_places;
};

} // namespace nuvat
