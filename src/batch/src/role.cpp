#include "nuvat/batch/role.h"

#include <algorithm>
#include <array>
#include <stdexcept>

namespace nuvat {

namespace {

struct Facts {
    Role role;
    std::string_view name, word;
    bool isCounted, isBlank, isReadOff, hasNominal, isOfSample;
};

constexpr bool kNo = false;
constexpr std::array<Facts, 11> kRoles{{
    {Role::Empty, "empty", "empty", kNo, kNo, kNo, kNo, kNo},
    {Role::Standard, "standard", "standard", true, kNo, kNo, kNo, kNo},
    {Role::Blank, "blank", "blank", kNo, true, kNo, kNo, kNo},
    {Role::Qc, "qc", "QC", true, kNo, true, true, kNo},
    {Role::Unknown, "unknown", "unknown", true, kNo, true, kNo, true},
    {Role::DoubleBlank, "double-blank", "double blank", kNo, true, kNo, kNo, kNo},
    {Role::ReagentBlank, "reagent-blank", "reagent blank", kNo, true, kNo, kNo, kNo},
    {Role::CheckStandard, "check-standard", "check standard", true, kNo, true, true, kNo},
    {Role::NegativeControl, "negative-control", "negative control", true, kNo, true, kNo, kNo},
    {Role::Spike, "spike", "spike", true, kNo, true, kNo, true},
    {Role::Addition, "addition", "addition", true, kNo, kNo, kNo, true},
}};

const Facts& facts(Role role) {
    const auto found = std::find_if(kRoles.begin(), kRoles.end(), [&](const Facts& f) { return f.role == role; });
    if (found == kRoles.end()) {
        throw std::invalid_argument("facts: not a role");
    }
    return *found;
}

} // namespace

std::string_view name(Role role) {
    return facts(role).name;
}

std::optional<Role> roleFromName(std::string_view text) {
    const auto found = std::find_if(kRoles.begin(), kRoles.end(), [&](const Facts& f) { return f.name == text; });
    return found == kRoles.end() ? std::nullopt : std::optional(found->role);
}

std::string_view roleWord(Role role) {
    return facts(role).word;
}

const std::vector<Role>& rolesInUse() {
    static const std::vector<Role> roles = [] {
        std::vector<Role> out;
        for (const Facts& one : kRoles) {
            if (one.role != Role::Empty) {
                out.push_back(one.role);
            }
        }
        return out;
    }();
    return roles;
}

bool isCounted(Role role) {
    return facts(role).isCounted;
}
bool isBlank(Role role) {
    return facts(role).isBlank;
}
bool isReadOff(Role role) {
    return facts(role).isReadOff;
}
bool hasNominal(Role role) {
    return facts(role).hasNominal;
}
bool isOfSample(Role role) {
    return facts(role).isOfSample;
}

} // namespace nuvat
