#include "nuvat/batch/place_index.h"

#include <algorithm>

namespace nuvat {

PlaceIndex::PlaceIndex(const Batch& batch, const Bracket& of) : m_carriers(batch.carriers) {
    const auto isTaken = [&of](Place place, Role role) {
        return of.carrier == 0 || (of.number == 0 ? place.carrier == of.carrier : of.holds(place, role));
    };
    for (const auto& [number, carrier] : m_carriers) {
        m_offsets.emplace(number, m_size);
        m_size += carrier.size();
    }
    std::vector<std::pair<Assignment, Place>> entries;
    entries.reserve(batch.places.size());
    for (const auto& [place, assignment] : batch.places) {
        if (assignment.role != Role::Empty && isTaken(place, assignment.role)) {
            entries.emplace_back(assignment, place);
        }
    }
    std::sort(entries.begin(), entries.end());
    for (const auto& [group, place] : entries) {
        if (m_groups.empty() || m_groups.back() != group) {
            m_groups.push_back(group);
            m_begins.push_back(m_places.size());
        }
        if (batch.holds(place)) {
            m_places.push_back(place);
        }
    }
    m_begins.push_back(m_places.size());
}

std::optional<std::size_t> PlaceIndex::find(Place place) const {
    const auto carrier = m_carriers.find(place.carrier);
    if (carrier == m_carriers.end() || !carrier->second.holds(place.row, place.column)) {
        return std::nullopt;
    }
    return m_offsets.at(place.carrier) + static_cast<std::size_t>(place.row * carrier->second.columns + place.column);
}

std::span<const Place> PlaceIndex::members(Assignment group) const {
    const auto found = std::lower_bound(m_groups.begin(), m_groups.end(), group);
    if (found == m_groups.end() || *found != group) {
        return {};
    }
    const auto i = static_cast<std::size_t>(found - m_groups.begin());
    return std::span(m_places).subspan(m_begins[i], m_begins[i + 1] - m_begins[i]);
}

std::span<const Assignment> PlaceIndex::groupsOf(Role role) const {
    const auto [first, last] =
        std::equal_range(m_groups.begin(), m_groups.end(), Assignment{role, 0},
                         [](const Assignment& a, const Assignment& b) { return a.role < b.role; });
    return {first, last};
}

std::vector<int> PlaceIndex::numbersOf(Role role) const {
    std::vector<int> numbers;
    for (const Assignment group : groupsOf(role)) {
        if (numbers.empty() || numbers.back() != group.number) {
            numbers.push_back(group.number);
        }
    }
    return numbers;
}

} // namespace nuvat
