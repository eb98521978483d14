#include "nuvat/batch/layout_checks.h"

#include "nuvat/batch/place_index.h"
#include "nuvat/core/base/number.h"

#include <algorithm>
#include <set>

namespace nuvat {

namespace {

class LayoutReview {
public:
    LayoutReview(const Batch& batch, const PlaceIndex& index, int analyte)
        : m_batch(batch), m_index(index), m_number(analyte), m_analyte(batch.method.analyte(analyte)) {}

    std::vector<LayoutCheck> all() {
        const CurveOf curve = m_analyte.source.curve;
        if (curve == CurveOf::Batch || curve == CurveOf::Carrier || curve == CurveOf::Bracket) {
            levels();
            concentrations();
            replicates();
            eachPlate();
        } else if (curve == CurveOf::Sample) {
            additions();
        }
        blanks();
        qcs();
        add("Unit set", m_analyte.unit.empty() ? "none" : m_analyte.unit,
            m_analyte.unit.empty() ? Outcome::Review : Outcome::Pass, "Type the unit of the standards.");
        const std::size_t unknowns = m_index.numbersOf(Role::Unknown).size();
        add("Unknowns", std::to_string(unknowns), unknowns == 0 ? Outcome::Review : Outcome::Pass,
            "Give the wells of the samples their role.");
        return std::move(m_checks);
    }

private:
    void add(std::string title, std::string found, Outcome outcome, std::string advice) {
        m_checks.push_back(
            {std::move(title), std::move(found), outcome, outcome == Outcome::Pass ? "" : std::move(advice)});
    }

    std::optional<double> concentrationOf(int level) const {
        const auto found = m_batch.levels.find({level, m_number});
        return found == m_batch.levels.end() ? std::nullopt : found->second.concentration;
    }

    /// Levels that differ in concentration; one without any counts as one of its own.
    void levels() {
        std::set<double> known;
        std::size_t unknown = 0;
        for (const int level : m_index.numbersOf(Role::Standard)) {
            const auto value = concentrationOf(level);
            value ? void(known.insert(*value)) : void(++unknown);
        }
        const std::size_t count = known.size() + unknown;
        const std::size_t parameters = std::max<std::size_t>(parameterCount(m_analyte.fit.model), 2);
        const auto wanted = static_cast<std::size_t>(std::max(m_batch.method.limits.levelsAtLeast, 0));
        const std::size_t least = std::max(parameters, wanted);
        add("At least " + std::to_string(least) + " levels", std::to_string(count),
            count < parameters ? Outcome::Fail
            : count < least    ? Outcome::Review
                               : Outcome::Pass,
            count < parameters ? "The model needs " + std::to_string(parameters) + " levels: add standards."
                               : "The criteria ask for " + std::to_string(wanted) + " levels: add standards.");
    }

    void concentrations() {
        std::vector<std::string> missing;
        for (const int level : m_index.numbersOf(Role::Standard)) {
            if (!concentrationOf(level)) {
                missing.push_back("S" + std::to_string(level));
            }
        }
        if (!missing.empty()) {
            add("Concentrations known", "not of " + few(missing), Outcome::Fail,
                "Type them under Standard series, or in the list of levels.");
        }
    }

    void replicates() {
        const auto groups = m_index.groupsOf(Role::Standard);
        std::size_t fewest = 0;
        std::vector<std::string> single;
        for (const Assignment group : groups) {
            const std::size_t count = m_index.members(group).size();
            fewest = fewest == 0 ? count : std::min(fewest, count);
            if (count == 1) {
                single.push_back("S" + std::to_string(group.number));
            }
        }
        if (!groups.empty()) {
            add("Every level replicated", single.empty() ? std::to_string(fewest) : few(single) + " once",
                single.empty() ? Outcome::Pass : Outcome::Review,
                "With one well of a level nobody sees how far its readings scatter.");
        }
    }

    std::vector<std::string> carriersWithout(Role role) const {
        std::vector<std::string> out;
        for (const auto& [number, carrier] : m_batch.carriers) {
            bool isUsed = false, hasRole = false;
            for (const auto& [place, assignment] : m_batch.places) {
                isUsed = isUsed || place.carrier == number;
                hasRole = hasRole || (place.carrier == number && assignment.role == role);
            }
            if (isUsed && !hasRole) {
                out.push_back(carrierName(m_batch.carriers, number));
            }
        }
        return out;
    }

    /// Standards on both sides of the samples, where each bracket has a curve.
    void eachBracket() {
        for (const Bracket& bracket : bracketsOf(m_batch)) {
            const PlaceIndex index(m_batch, bracket);
            const std::size_t count = index.numbersOf(Role::Standard).size();
            const std::size_t least = std::max<std::size_t>(parameterCount(m_analyte.fit.model), 2);
            if (count < least) {
                add("Standards in each bracket", std::to_string(count) + " levels in " + bracketName(bracket.number),
                    Outcome::Fail, "Run standards before and after each stretch of samples, or use one curve for all.");
                return;
            }
        }
        add("Standards in each bracket", "yes", Outcome::Pass, "");
    }

    void eachPlate() {
        if (m_analyte.source.curve == CurveOf::Bracket) {
            return eachBracket();
        }
        if (m_analyte.source.curve != CurveOf::Carrier) {
            return;
        }
        const auto without = carriersWithout(Role::Standard);
        add("Standards on each plate", without.empty() ? "yes" : "none on " + few(without),
            without.empty() ? Outcome::Pass : Outcome::Fail,
            "Each plate has a curve of its own: give it standards, or use one curve for all.");
    }

    void additions() {
        const auto groups = m_index.groupsOf(Role::Addition);
        add("Additions to the samples", std::to_string(groups.size()), groups.empty() ? Outcome::Fail : Outcome::Pass,
            "Standard addition needs wells to which something was added.");
    }

    void blanks() {
        if (!m_batch.method.subtractsBlank) {
            return;
        }
        const auto blanks = m_index.groupsOf(Role::Blank);
        const std::size_t count = blanks.empty() ? 0 : m_index.members(blanks.front()).size();
        const auto without = carriersWithout(Role::Blank);
        const bool isEverywhere = count > 0 && without.empty();
        add("Blank present", count == 0 || without.empty() ? std::to_string(count) : "none on " + few(without),
            isEverywhere ? Outcome::Pass : Outcome::Fail,
            "The method subtracts the blank: give wells that role, or switch it off on Response.");
    }

    void qcs() {
        std::set<double> nominals;
        std::vector<std::string> missing;
        for (const int number : m_index.numbersOf(Role::Qc)) {
            const auto found = m_batch.qcs.find({number, m_number});
            if (found != m_batch.qcs.end() && found->second.nominal) {
                nominals.insert(*found->second.nominal);
            } else {
                missing.push_back(shortName(m_batch, {Role::Qc, number}));
            }
        }
        if (!missing.empty()) {
            add("QC at two levels", few(missing) + " without a nominal", Outcome::Review,
                "Type the nominal concentration of each QC.");
            return;
        }
        const std::vector<double> values(nominals.begin(), nominals.end());
        add("QC at two levels", values.empty() ? "none" : joinedNumbers(values),
            nominals.size() < 2 ? Outcome::Review : Outcome::Pass,
            "One QC low and one high in the range show whether the curve holds (common practice).");
    }

    static std::string few(const std::vector<std::string>& names) {
        constexpr std::size_t kMost = 3;
        std::string out;
        for (std::size_t i = 0; i < std::min(names.size(), kMost); ++i) {
            out += (out.empty() ? "" : ", ") + names[i];
        }
        return names.size() > kMost ? out + " …" : out;
    }

    const Batch& m_batch;
    const PlaceIndex& m_index;
    int m_number;
    const Analyte& m_analyte;
    std::vector<LayoutCheck> m_checks;
};

} // namespace

std::vector<LayoutCheck> layoutChecks(const Batch& batch, const PlaceIndex& index, int analyte) {
    return LayoutReview(batch, index, analyte).all();
}

} // namespace nuvat
