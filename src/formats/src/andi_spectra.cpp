#include "andi_spectra.h"

#include "nuvat/core/base/number.h"

#include <cmath>
#include <map>

namespace nuvat {

namespace {

constexpr std::size_t kMostIons = 64; // more are spectra, not selected ions

using Values = std::vector<std::optional<double>>;

/// The values of a variable; none where there is no such one.
Result<Values> valuesOf(const NetcdfFile& file, const char* name) {
    const NetcdfVariable* variable = file.find(name);
    return variable == nullptr ? Values{} : file.values(*variable);
}

/// Where one scan stands among masses and intensities.
struct Scan {
    double time = 0;
    std::size_t from = 0, count = 0;
    std::optional<double> total;
};

Result<std::vector<Scan>> scansOf(const NetcdfFile& file, std::size_t points) {
    const auto times = valuesOf(file, "scan_acquisition_time"), begins = valuesOf(file, "scan_index"),
               counts = valuesOf(file, "point_count"), totals = valuesOf(file, "total_intensity");
    for (const auto* one : {&times, &begins, &counts, &totals}) {
        if (!*one) {
            return tl::unexpected(one->error());
        }
    }
    if (times->empty() || begins->size() != times->size() || counts->size() != times->size()) {
        return fail("andi.scans", "The file does not say when each scan was taken and where its values stand.",
                    "Export it again from the instrument's software.");
    }
    std::vector<Scan> out;
    for (std::size_t i = 0; i < times->size(); ++i) {
        Scan scan;
        const double count = (*counts)[i].value_or(0), from = (*begins)[i].value_or(0);
        const bool isInside = from >= 0 && count >= 0 && from + count <= static_cast<double>(points);
        if (!(*times)[i] || !isInside) {
            return fail("andi.scans",
                        "Scan " + std::to_string(i + 1) +
                            ((*times)[i] ? " reaches beyond the values of the file." : " has no time."),
                        "Export it again from the instrument's software.");
        }
        scan.time = *(*times)[i];
        scan.from = static_cast<std::size_t>(from);
        scan.count = static_cast<std::size_t>(count);
        scan.total = i < totals->size() ? (*totals)[i] : std::nullopt;
        out.push_back(scan);
    }
    return out;
}

FileTrace traceOf(const NetcdfFile& file, const std::string& name) {
    const auto textOf = [&](const char* key) {
        const NetcdfAttribute* found = file.attribute(key);
        return found ? found->text : std::string();
    };
    FileTrace out;
    out.name = name;
    out.place = textOf("experiment_title");
    out.xAxis = {"time", textOf("raw_data_time_units").empty() ? "s" : textOf("raw_data_time_units")};
    out.yAxis = {"intensity", textOf("raw_data_intensity_units")};
    return out;
}

/// A trace for each ion; none where there are too many of them.
std::map<double, FileTrace> ionsOf(const NetcdfFile& file, const std::vector<Scan>& scans, const Values& masses,
                                   const Values& intensities) {
    constexpr double kPerUnit = 100; // masses that differ by less are the same ion
    std::map<double, FileTrace> out;
    for (const Scan& scan : scans) {
        for (std::size_t i = scan.from; i < scan.from + scan.count; ++i) {
            if (!masses[i] || !intensities[i]) {
                continue;
            }
            const double mass = std::round(kPerUnit * *masses[i]) / kPerUnit;
            const auto [found, isNew] = out.try_emplace(mass);
            if (isNew) {
                found->second = traceOf(file, "m/z " + formatNumber(mass));
            }
            if (out.size() > kMostIons) {
                return {};
            }
            found->second.x.push_back(scan.time);
            found->second.y.push_back(*intensities[i]);
        }
    }
    return out;
}

} // namespace

Result<FileContent> readAndiSpectra(const NetcdfFile& file) {
    const auto masses = valuesOf(file, "mass_values"), intensities = valuesOf(file, "intensity_values");
    if (!masses || !intensities) {
        return tl::unexpected(!masses ? masses.error() : intensities.error());
    }
    if (masses->size() != intensities->size()) {
        return fail("andi.scans",
                    "The file has " + std::to_string(masses->size()) + " masses and " +
                        std::to_string(intensities->size()) + " intensities.",
                    "Export it again from the instrument's software.");
    }
    const auto scans = scansOf(file, masses->size());
    if (!scans) {
        return tl::unexpected(scans.error());
    }
    FileContent out;
    out.format = "ANDI mass spectrometry";
    FileTrace total = traceOf(file, "total intensity");
    for (const Scan& scan : *scans) {
        double sum = 0;
        for (std::size_t i = scan.from; i < scan.from + scan.count; ++i) {
            sum += (*intensities)[i].value_or(0);
        }
        total.x.push_back(scan.time);
        total.y.push_back(scan.total.value_or(sum));
    }
    out.traces.push_back(std::move(total));
    auto ions = ionsOf(file, *scans, *masses, *intensities);
    for (auto& [mass, trace] : ions) {
        out.traces.push_back(std::move(trace));
    }
    if (ions.empty() && !masses->empty()) {
        out.warnings.push_back("The file holds whole spectra of " + std::to_string(scans->size()) +
                               " scans; their total intensity is read.");
    }
    for (const NetcdfAttribute& attribute : file.attributes()) {
        out.header.emplace_back(attribute.name, shown(attribute));
    }
    return out;
}

} // namespace nuvat
