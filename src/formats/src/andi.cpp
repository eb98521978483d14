#include "nuvat/formats/andi.h"

#include "andi_spectra.h"
#include "netcdf.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/units.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace nuvat {

namespace {

std::string textOf(const NetcdfFile& file, std::string_view name) {
    const NetcdfAttribute* found = file.attribute(name);
    return found ? found->text : std::string();
}

} // namespace

std::string shown(const NetcdfAttribute& attribute) {
    if (attribute.numbers.empty()) {
        return attribute.text;
    }
    std::string out;
    for (const double number : attribute.numbers) {
        out += (out.empty() ? "" : ", ") + formatNumber(number);
    }
    return out;
}

namespace {

/// YYYYMMDDhhmmss±hhmm, with each part in its range.
bool isDate(std::string_view text) {
    if (text.size() < 14 || text.substr(0, 14).find_first_not_of("0123456789") != std::string_view::npos) {
        return false;
    }
    const auto part = [&](std::size_t from, std::size_t size) {
        return static_cast<int>(parseNumber(text.substr(from, size)).value_or(-1));
    };
    constexpr std::array<int, 12> kDays{31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
    const int month = part(4, 2), day = part(6, 2);
    return month >= 1 && month <= 12 && day >= 1 && day <= kDays.at(static_cast<std::size_t>(month - 1)) &&
           part(8, 2) < 24 && part(10, 2) < 60 && part(12, 2) <= 60;
}

/// The time of each point, or why there is none.
Result<std::vector<double>> timesOf(const NetcdfFile& file, const NetcdfVariable& ordinates, std::size_t count) {
    const NetcdfAttribute* flag = ordinates.attribute("uniform_sampling_flag");
    const NetcdfVariable* retention = file.find("raw_data_retention");
    const bool isUniform = !(flag && !flag->text.empty() && (flag->text[0] == 'N' || flag->text[0] == 'n'));
    std::vector<double> out(count);
    if (!isUniform && retention) {
        const auto raw = file.values(*retention);
        if (!raw) {
            return tl::unexpected(raw.error());
        }
        if (raw->size() < count || std::any_of(raw->begin(), raw->begin() + static_cast<std::ptrdiff_t>(count),
                                               [](const auto& value) { return !value; })) {
            return fail("andi.time-axis", "The file gives times for fewer points than it has.");
        }
        for (std::size_t i = 0; i < count; ++i) {
            out[i] = *(*raw)[i];
        }
        return out;
    }
    const auto interval = file.number("actual_sampling_interval");
    if (!interval || !(*interval > 0)) {
        return fail("andi.time-axis",
                    interval ? "The sampling interval of the chromatogram is " + formatNumber(*interval) +
                                   ", which gives no time axis."
                             : "The file gives no sampling interval: there is no time axis.",
                    "Export it again from the instrument's software.");
    }
    const double delay = file.number("actual_delay_time").value_or(0);
    for (std::size_t i = 0; i < count; ++i) {
        out[i] = delay + static_cast<double>(i) * *interval;
    }
    return out;
}

void warnAbout(const NetcdfFile& file, const NetcdfVariable& ordinates, FileContent& out) {
    const std::string date = textOf(file, "injection_date_time_stamp");
    if (!date.empty() && !isDate(date)) {
        out.warnings.push_back("The time of the injection, \"" + excerpt(date) + "\", is no date.");
    }
    for (const std::string& other : file.overlaps(ordinates)) {
        out.warnings.push_back("The chromatogram overlaps with \"" + excerpt(other) +
                               "\" in the file: its values may be wrong.");
    }
    const std::string unit = textOf(file, "retention_unit");
    if (unit.empty()) {
        out.warnings.push_back("The file does not say the unit of the time axis.");
    } else if (!isUnit(unitSymbol(unit))) {
        out.warnings.push_back("The unit of the time axis, \"" + excerpt(unit) + "\", is not known.");
    }
}

} // namespace

bool looksLikeNetcdf(std::string_view bytes) {
    return bytes.size() > 3 && bytes.starts_with("CDF") && static_cast<unsigned char>(bytes[3]) < 32;
}

Result<FileContent> readAndi(std::string_view bytes) {
    const auto file = NetcdfFile::open(bytes);
    if (!file) {
        return tl::unexpected(file.error());
    }
    const NetcdfVariable* ordinates = file->find("ordinate_values");
    if (!ordinates) {
        if (file->find("mass_values") && file->find("intensity_values")) {
            return readAndiSpectra(*file);
        }
        return fail("andi.not-a-chromatogram",
                    "This is a netCDF file, but no chromatogram: it has neither ordinate_values nor mass_values with "
                    "intensity_values.",
                    "Choose an ANDI file (AIA, .cdf).");
    }
    const auto values = file->values(*ordinates);
    if (!values) {
        return tl::unexpected(values.error());
    }
    auto times = timesOf(*file, *ordinates, values->size());
    if (!times) {
        return tl::unexpected(times.error());
    }
    FileContent out;
    out.format = "ANDI chromatography";
    FileTrace trace;
    trace.name = textOf(*file, "detector_name");
    trace.place = textOf(*file, "sample_name");
    trace.xAxis = {"time", textOf(*file, "retention_unit")};
    trace.yAxis = {trace.name.empty() ? "signal" : trace.name, textOf(*file, "detector_unit")};
    trace.x = std::move(*times);
    for (std::size_t i = 0; i < values->size(); ++i) {
        trace.y.push_back((*values)[i].value_or(0));
        if (!(*values)[i]) {
            trace.missing.push_back(i);
        }
    }
    warnAbout(*file, *ordinates, out);
    out.traces.push_back(std::move(trace));
    for (const NetcdfAttribute& attribute : file->attributes()) {
        out.header.emplace_back(attribute.name, shown(attribute));
    }
    return out;
}

} // namespace nuvat
