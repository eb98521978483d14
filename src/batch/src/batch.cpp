#include "nuvat/batch/batch.h"

#include <array>
#include <set>
#include <stdexcept>

namespace nuvat {

namespace {
constexpr std::array<std::string_view, 5> kRoleNames{"empty", "standard", "blank", "qc", "unknown"};
}

std::string_view name(Role role) {
    return kRoleNames.at(static_cast<std::size_t>(role));
}

std::optional<Role> roleFromName(std::string_view text) {
    for (std::size_t i = 0; i < kRoleNames.size(); ++i) {
        if (kRoleNames[i] == text) {
            return static_cast<Role>(i);
        }
    }
    return std::nullopt;
}

const Reading* Batch::reading() const {
    const auto found = readings.find(info.readingInUse);
    return found == readings.end() ? nullptr : &found->second;
}

Assignment Batch::at(Place place) const {
    const auto found = places.find(place);
    return found == places.end() ? Assignment{} : found->second;
}

std::vector<Place> Batch::placesOf(Assignment group) const {
    std::vector<Place> out;
    for (const auto& [place, assignment] : places) {
        if (assignment == group) {
            out.push_back(place);
        }
    }
    return out;
}

std::vector<int> Batch::numbersOf(Role role) const {
    std::set<int> numbers;
    for (const auto& [place, assignment] : places) {
        if (assignment.role == role) {
            numbers.insert(assignment.number);
        }
    }
    return {numbers.begin(), numbers.end()};
}

std::string shortName(const Batch& batch, Assignment group) {
    switch (group.role) {
    case Role::Empty:
        return "Empty";
    case Role::Blank:
        return "Blank";
    case Role::Standard:
        return "S" + std::to_string(group.number);
    case Role::Qc: {
        const auto qc = batch.qcs.find(group.number);
        return qc == batch.qcs.end() || qc->second.name.empty() ? "QC " + std::to_string(group.number)
                                                                : qc->second.name;
    }
    case Role::Unknown:
        return std::string(group.number < 10 ? "U0" : "U") + std::to_string(group.number);
    }
    throw std::invalid_argument("shortName: not a role");
}

std::string fullName(const Batch& batch, Assignment group) {
    if (group.role == Role::Unknown) {
        const auto sample = batch.samples.find(group.number);
        if (sample != batch.samples.end() && !sample->second.name.empty()) {
            return sample->second.name;
        }
    }
    return shortName(batch, group);
}

std::string wellName(Place place) {
    return wellName(place.row, place.column);
}

} // namespace nuvat
