#include "scan_total.h"

#include "nuvat/core/base/duration.h"

#include <algorithm>
#include <numeric>

namespace nuvat {

namespace {

/// The time of a scan that its place says: "63.5 s".
std::optional<double> timeOf(const FileTrace& scan) {
    return scan.xAxis.name == "m/z" ? parseDuration(scan.place) : std::nullopt;
}

} // namespace

FileContent asChromatogram(FileContent content) {
    FileTrace total;
    total.name = "total intensity";
    total.xAxis = {"time", "s"};
    total.yAxis = {"intensity", content.traces.empty() ? "" : content.traces.front().yAxis.unit};
    for (const FileTrace& scan : content.traces) {
        const auto time = timeOf(scan);
        if (!time || (!total.x.empty() && *time < total.x.back())) {
            return content;
        }
        const double sum = std::accumulate(scan.y.begin(), scan.y.end(), 0.0);
        if (!total.x.empty() && *time == total.x.back()) { // several of one time are one point
            total.y.back() += sum;
        } else {
            total.x.push_back(*time);
            total.y.push_back(sum);
        }
    }
    if (total.x.size() < 2) {
        return content;
    }
    content.warnings.push_back("The file holds " + std::to_string(content.traces.size()) +
                               " spectra; their total intensity is taken as the chromatogram.");
    content.traces = {std::move(total)};
    return content;
}

} // namespace nuvat
