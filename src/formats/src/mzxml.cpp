#include "nuvat/formats/mzxml.h"

#include "mzml_arrays.h"
#include "xml_reader.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"

#include <algorithm>

namespace nuvat {

namespace {

constexpr const char* kAdvice = "Export the file again.";

/// "63.2 s" of "PT63.2S" and "PT1M3.2S"; what is no such duration stays as it is.
std::string timeText(const std::string& duration) {
    if (!duration.starts_with("PT")) {
        return duration;
    }
    double seconds = 0;
    std::size_t from = 2;
    for (const auto& [letter, factor] : {std::pair{'H', 3600.0}, {'M', 60.0}, {'S', 1.0}}) {
        const auto at = duration.find(letter, from);
        if (at == std::string::npos) {
            continue;
        }
        const auto value = parseNumber(duration.substr(from, at - from));
        if (!value) {
            return duration;
        }
        seconds += factor * *value;
        from = at + 1;
    }
    return from == duration.size() ? formatNumber(seconds) + " s" : duration;
}

/// One element of peaks while it is read.
struct PeaksDraft {
    ArrayCode code;
    std::string content; ///< "m/z-int" for pairs, "m/z" or "intensity" for one of two arrays
    std::string text;
};

class MzxmlReader : public XmlReader {
public:
    MzxmlReader() : XmlReader("mzxml.xml", "The XML") { m_out.format = "mzXML"; }

    Result<FileContent> finish() {
        if (error()) {
            return tl::unexpected(*error());
        }
        if (m_out.traces.empty()) {
            return fail("mzxml.peaks", "The file holds no scan.", kAdvice);
        }
        if (m_declared && *m_declared != static_cast<double>(m_out.traces.size())) {
            m_out.warnings.push_back("The file says that it has " + formatNumber(*m_declared) + " scans; there are " +
                                     std::to_string(m_out.traces.size()) + ".");
        }
        return std::move(m_out);
    }

private:
    /// A scan that is open, and where its trace is.
    struct Scan {
        std::size_t index = 0;
        std::string number;
        std::size_t count = 0;
    };

    void start(std::string_view name, const XmlAttributes& attributes) override {
        if (name == "msRun") {
            m_declared = parseNumber(attribute(attributes, "scanCount"));
            for (const char* key : {"scanCount", "startTime", "endTime"}) {
                addHeader(key, attribute(attributes, key));
            }
        } else if (name == "parentFile") {
            addHeader("parentFile", attribute(attributes, "fileName"));
        } else if (name.starts_with("ms") && !attribute(attributes, "value").empty()) {
            addHeader(std::string(name), attribute(attributes, "value"));
        } else if (name == "scan") {
            startScan(attributes);
        } else if (name == "peaks" && !m_open.empty()) {
            startPeaks(attributes);
        }
    }

    void addHeader(const std::string& key, const std::string& value) {
        if (!value.empty()) {
            m_out.header.emplace_back(key, value);
        }
    }

    void startScan(const XmlAttributes& attributes) {
        Scan scan{m_out.traces.size(), attribute(attributes, "num"), 0};
        const auto count = parseNumber(attribute(attributes, "peaksCount"));
        if (!count || !(*count >= 0) || *count > static_cast<double>(kMostPoints)) {
            stopAt(scan,
                   "says that it has \"" + excerpt(attribute(attributes, "peaksCount")) + "\" peaks, which cannot be");
            return;
        }
        scan.count = static_cast<std::size_t>(*count);
        m_points += scan.count;
        if (m_points > kMostPoints) {
            stop(Error{"mzxml.too-large", "The file holds more than 50 million points.", "Export fewer scans a file."});
            return;
        }
        FileTrace trace;
        trace.name = "scan " + scan.number;
        trace.place = timeText(attribute(attributes, "retentionTime"));
        trace.xAxis.name = "m/z";
        trace.yAxis.name = "intensity";
        m_out.traces.push_back(std::move(trace));
        m_open.push_back(std::move(scan));
    }

    void startPeaks(const XmlAttributes& attributes) {
        m_peaks.emplace();
        m_peaks->code.isBigEndian = true;
        const std::string precision = attribute(attributes, "precision");
        m_peaks->code.numbers = precision == "64"                        ? NumberCode::Float64
                                : precision == "32" || precision.empty() ? NumberCode::Float32
                                                                         : NumberCode::None;
        m_peaks->content = attribute(attributes, "contentType");
        if (m_peaks->content.empty()) {
            m_peaks->content = attribute(attributes, "pairOrder");
        }
        const std::string packing = attribute(attributes, "compressionType");
        m_peaks->code.isDeflated = packing == "zlib";
        if (!packing.empty() && packing != "zlib" && packing != "none") {
            stopAt(m_open.back(), " is packed by \"" + excerpt(packing) + "\", which is not known");
        }
    }

    void text(std::string_view text) override {
        if (m_peaks) {
            m_peaks->text += text;
        }
    }

    void end(std::string_view name) override {
        if (name == "peaks" && m_peaks && !m_open.empty()) {
            takePeaks();
            m_peaks.reset();
        } else if (name == "scan" && !m_open.empty()) {
            const Scan& scan = m_open.back();
            const FileTrace& trace = m_out.traces[scan.index];
            if (trace.x.size() != trace.y.size() || trace.x.size() != scan.count) {
                stopAt(scan, " says that it has " + std::to_string(scan.count) + " peaks, and holds " +
                                 std::to_string(std::min(trace.x.size(), trace.y.size())));
            }
            m_open.pop_back();
        }
    }

    void takePeaks() {
        const Scan& scan = m_open.back();
        FileTrace& trace = m_out.traces[scan.index];
        const std::string& content = m_peaks->content;
        const bool isPairs = content.empty() || content == "m/z-int";
        if (!isPairs && content != "m/z" && content != "intensity") {
            stopAt(scan, " holds \"" + excerpt(content) + "\", which is not read");
            return;
        }
        auto values = decodeArray(m_peaks->text, m_peaks->code, isPairs ? 2 * scan.count : scan.count);
        if (!values) {
            stopAt(scan, ": its array " + values.error().message);
            return;
        }
        if (!isPairs) {
            (content == "m/z" ? trace.x : trace.y) = std::move(*values);
            return;
        }
        for (std::size_t i = 0; i + 1 < values->size(); i += 2) {
            trace.x.push_back((*values)[i]);
            trace.y.push_back((*values)[i + 1]);
        }
    }

    /// @param what goes on after the number of the scan
    void stopAt(const Scan& scan, const std::string& what) {
        stop(Error{"mzxml.peaks", "Scan " + excerpt(scan.number) + what + ".", kAdvice});
    }

    FileContent m_out;
    std::vector<Scan> m_open; ///< those that hang below each other
    std::optional<PeaksDraft> m_peaks;
    std::optional<double> m_declared;
    std::size_t m_points = 0;
};

} // namespace

bool looksLikeMzxml(std::string_view head) {
    return head.find("<mzXML") != std::string_view::npos || head.find("<msRun") != std::string_view::npos;
}

Result<FileContent> readMzxml(std::string_view bytes) {
    MzxmlReader reader;
    reader.feedAll(bytes);
    return reader.finish();
}

} // namespace nuvat
