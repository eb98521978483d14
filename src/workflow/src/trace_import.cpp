#include "nuvat/workflow/trace_import.h"

#include "nuvat/core/base/checksum.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "scan_total.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <cctype>
#include <fstream>
#include <future>
#include <map>
#include <span>
#include <thread>

namespace nuvat {

namespace {

constexpr std::size_t kMostSweeps = 200;

bool areRuns(const FileContent& content, ColumnsAre columns) {
    if (columns != ColumnsAre::Guessed) {
        return columns == ColumnsAre::Runs;
    }
    constexpr std::size_t kManyChannels = 4;
    return content.format == "text" && content.traces.size() > kManyChannels &&
           std::ranges::all_of(content.traces, [&](const FileTrace& trace) {
               return trace.yAxis.unit == content.traces.front().yAxis.unit &&
                      trace.place == content.traces.front().place;
           });
}

/// With the column of that name as x: what was x becomes a trace over it. Traces of other places or lengths stay.
std::vector<FileTrace> withX(const std::vector<FileTrace>& traces, const std::string& name) {
    std::vector<FileTrace> out;
    for (const FileTrace& trace : traces) {
        const auto x = std::ranges::find_if(traces, [&](const FileTrace& one) {
            return one.name == name && one.place == trace.place && one.x == trace.x;
        });
        if (x == traces.end()) {
            out.push_back(trace);
            continue;
        }
        FileTrace turned = trace;
        if (&trace == &*x) {
            turned.name = trace.xAxis.name;
            turned.yAxis = trace.xAxis;
            turned.y = trace.x;
            turned.missing.clear();
        }
        turned.xAxis = {x->name, x->yAxis.unit};
        turned.x = x->y;
        for (auto gap = x->missing.rbegin(); gap != x->missing.rend(); ++gap) { // there is no x
            const auto at = static_cast<std::ptrdiff_t>(*gap);
            turned.x.erase(turned.x.begin() + at);
            turned.y.erase(turned.y.begin() + at);
            std::erase(turned.missing, *gap);
            for (std::size_t& later : turned.missing) {
                later -= later > *gap ? 1U : 0U;
            }
        }
        out.push_back(std::move(turned));
    }
    return out;
}

/// The traces as the recipe wants them: x, units, and those that are left out.
std::vector<FileTrace> corrected(const FileContent& content, const TraceRecipe& recipe) {
    std::vector<FileTrace> out = recipe.x.empty() ? content.traces : withX(content.traces, recipe.x);
    std::erase_if(out, [&](const FileTrace& trace) {
        const ColumnRecipe* column = recipe.find(trace.name);
        return trace.isTable || (column && column->name.empty());
    });
    for (FileTrace& trace : out) {
        if (const ColumnRecipe* x = recipe.find(trace.xAxis.name)) {
            trace.xAxis.unit = x->unit;
        }
        if (const ColumnRecipe* y = recipe.find(trace.name)) {
            trace.yAxis.unit = y->unit;
        }
    }
    return out;
}

/// A name that no channel of the run has yet.
std::string freeName(const ImportedRun& run, std::string name) {
    const auto isTaken = [&](const std::string& wanted) {
        return std::ranges::any_of(run.channels, [&](const auto& channel) { return channel.first == wanted; });
    };
    const std::string first = name;
    for (int i = 2; isTaken(name); ++i) {
        name = first + " (" + std::to_string(i) + ")";
    }
    return name;
}

/// One sweep with points whose y is missing: they stay, marked, where x goes one way through them as well.
std::optional<Trace> withGaps(const FileTrace& file, bool isRising, Trace out) {
    std::vector<double> x = file.x;
    out.y = file.y;
    for (const std::size_t gap : file.missing) {
        out.missing.push_back(static_cast<std::uint32_t>(isRising ? gap : x.size() - 1 - gap));
    }
    if (!isRising) {
        std::ranges::reverse(x);
        std::ranges::reverse(out.y);
        std::ranges::reverse(out.missing);
    }
    if (std::ranges::adjacent_find(x, std::greater_equal<>()) != x.end()) {
        return std::nullopt;
    }
    out.setX(std::move(x));
    return out;
}

Result<void> addTrace(const FileTrace& trace, const std::string& channel, const std::string& yName, ImportedRun& run) {
    std::vector<Sweep> sweeps = cutSweeps(trace.x, trace.y, trace.missing);
    if (sweeps.empty() || sweeps.size() > kMostSweeps) {
        return fail("trace.not-rising",
                    run.source + ": the x of " + excerpt(channel) +
                        (sweeps.empty() ? " has fewer than two points."
                                        : " turns " + std::to_string(sweeps.size()) + " times: it is no curve."),
                    "Check which column is x.");
    }
    for (std::size_t i = 0; i < sweeps.size(); ++i) {
        Trace out{trace.xAxis.name, trace.xAxis.unit, yName, trace.yAxis.unit, 0, 0, {}, {}, {}};
        auto whole =
            sweeps.size() == 1 && !trace.missing.empty() ? withGaps(trace, sweeps[i].isRising, out) : std::nullopt;
        if (whole) {
            out = std::move(*whole);
        } else {
            out.setX(std::move(sweeps[i].x));
            out.y = std::move(sweeps[i].y);
        }
        const std::string sweep = sweeps.size() > 1 ? " · " + sweepName(i + 1, sweeps[i].isRising) : std::string();
        run.channels.emplace_back(freeName(run, channel + sweep), Payload::of(std::move(out)));
    }
    return {};
}

/// "run 2" before "run 10".
bool isBefore(const std::string& a, const std::string& b) {
    std::size_t i = 0, j = 0;
    const auto isDigit = [](char c) { return std::isdigit(static_cast<unsigned char>(c)) != 0; };
    while (i < a.size() && j < b.size()) {
        if (isDigit(a[i]) && isDigit(b[j])) {
            const auto number = [&](const std::string& text, std::size_t& at) {
                const std::size_t from = std::min(text.find_first_not_of('0', at), text.size());
                at = from;
                while (at < text.size() && isDigit(text[at])) {
                    ++at;
                }
                return text.substr(from, at - from);
            };
            const std::string left = number(a, i), right = number(b, j);
            if (left != right) {
                return left.size() != right.size() ? left.size() < right.size() : left < right;
            }
        } else if (a[i] != b[j]) {
            return a[i] < b[j];
        } else {
            ++i;
            ++j;
        }
    }
    return a.size() - i < b.size() - j;
}

std::string checksumOf(const std::filesystem::path& path) {
    std::ifstream stream(path, std::ios::binary);
    return fnv1a(std::string(std::istreambuf_iterator<char>(stream), {}));
}

/// For one file of several that are read at once: it is cancelled with them, and says nothing.
class PartOf : public Progress {
public:
    explicit PartOf(const Progress& whole) : m_whole(whole) {}
    void report(double) override {}
    bool cancelled() const override { return m_whole.cancelled(); }

private:
    const Progress& m_whole;
};

/// What the file says of itself under a key, in one line; empty where it does not.
std::string headerText(const FileContent& content, const std::string& key) {
    const auto found = std::ranges::find(content.header, key, [](const auto& entry) { return entry.first; });
    return key.empty() || found == content.header.end() ? std::string() : excerpt(trimmed(found->second));
}

} // namespace

std::vector<std::filesystem::path> filesIn(const std::vector<std::filesystem::path>& paths) {
    std::vector<std::filesystem::path> out;
    for (const auto& path : paths) {
        std::error_code error;
        if (!std::filesystem::is_directory(path, error)) {
            out.push_back(path);
            continue;
        }
        for (std::filesystem::directory_iterator it(path, error), end; !error && it != end; it.increment(error)) {
            if (it->is_regular_file(error) && !it->path().filename().string().starts_with(".")) {
                out.push_back(it->path());
            }
        }
    }
    std::ranges::stable_sort(
        out, [](const auto& a, const auto& b) { return isBefore(a.filename().string(), b.filename().string()); });
    return out;
}

std::vector<std::string> columnNames(const FileContent& content) {
    std::vector<std::string> out;
    const auto add = [&](const std::string& name) {
        if (!name.empty() && std::ranges::find(out, name) == out.end()) {
            out.push_back(name);
        }
    };
    for (const FileTrace& trace : content.traces) {
        if (!trace.isTable) {
            add(trace.xAxis.name);
            add(trace.name);
        }
    }
    return out;
}

Result<std::vector<ImportedRun>> runsOf(const TraceFile& file, const TraceRecipe& recipe) {
    std::vector<ImportedRun> out;
    std::map<std::string, std::size_t> byPlace;
    const bool isEachARun = areRuns(file.content, recipe.columns);
    for (const FileTrace& trace : corrected(file.content, recipe)) {
        // Columns that are runs are one each, also where several have the same name.
        const auto [found, isNew] =
            byPlace.try_emplace(isEachARun ? std::to_string(out.size()) : trace.place, out.size());
        if (isNew) {
            out.push_back({file.source, file.checksum, isEachARun ? trace.name : trace.place, file.content.format, {}});
        }
        const ColumnRecipe* column = recipe.find(trace.name);
        const std::string channel = isEachARun ? "signal" : column ? column->name : trace.name;
        if (auto added = addTrace(trace, channel, isEachARun ? channel : trace.yAxis.name, out[found->second]);
            !added) {
            return tl::unexpected(added.error());
        }
    }
    if (const std::string name = headerText(file.content, recipe.nameKey); out.size() == 1 && !name.empty()) {
        out.front().name = name;
    }
    if (out.empty()) {
        return fail("peaks.no-trace", file.source + " holds no trace.", "Choose a file that does.");
    }
    return out;
}

namespace {

/// Errors of files whose cells may be wells all the same, once a person has marked them.
bool mayBeMarked(const Error& error) {
    constexpr std::array<std::string_view, 9> kCodes{"import.no-plate",  "import.ragged-row",   "import.row-missing",
                                                     "import.row-twice", "import.two-plates",   "import.well-twice",
                                                     "import.well-name", "import.surplus-cell", "import.outside"};
    return std::ranges::find(kCodes, error.code) != kCodes.end();
}

} // namespace

namespace {

struct OneFile {
    Result<AnyContent> content = fail("import.cancelled", "Reading was cancelled; nothing was imported.");
    std::string checksum;
};

OneFile readOne(const std::filesystem::path& path, Progress& progress, const PlateCut& cut) {
    OneFile out{readAnyFile(path, progress, cut), {}};
    // What was cancelled may be a pipe that has no end.
    if (!progress.cancelled() && out.content && std::holds_alternative<FileContent>(*out.content)) {
        out.checksum = checksumOf(path);
    }
    return out;
}

/// Reads files on all processors; what one of them says does not keep the others back.
/// @param from,share of the whole progress
std::vector<OneFile> readTogether(std::span<const std::filesystem::path> files, Progress& progress, double from,
                                  double share, const PlateCut& cut) {
    std::vector<OneFile> out(files.size());
    std::atomic<std::size_t> next{0}, done{0};
    const auto work = [&](bool reports) {
        for (std::size_t i = next++; i < files.size() && !progress.cancelled(); i = next++) {
            PartOf part(progress); // of several at once none can say how far the whole is
            out[i] = readOne(files[i], part, cut);
            const auto count = static_cast<double>(++done);
            if (reports) {
                progress.report(from + share * count / static_cast<double>(files.size()));
            }
        }
    };
    const std::size_t threads = std::clamp<std::size_t>(std::thread::hardware_concurrency(), 1, files.size());
    std::vector<std::future<void>> others;
    for (std::size_t i = 1; i < threads; ++i) {
        others.push_back(std::async(std::launch::async, work, false));
    }
    work(true);
    for (auto& other : others) {
        other.get(); // throws what was thrown there
    }
    return out;
}

/// Takes one file into what was read. @return whether files behind it may be read with it
bool take(OneFile& file, const std::filesystem::path& path, FilesRead& out) {
    if (!file.content) {
        out.errors.push_back(file.content.error());
        return true;
    }
    if (auto* traces = std::get_if<FileContent>(&*file.content)) {
        out.traces.push_back({asChromatogram(std::move(*traces)), path.filename().string(), std::move(file.checksum)});
        return true;
    }
    if (out.traces.empty()) {
        out.plates = std::get<std::vector<PlateImport>>(std::move(*file.content));
        ++out.count;
    }
    return false;
}

} // namespace

Result<FilesRead> readNext(const std::vector<std::filesystem::path>& files, Progress& progress, const PlateCut& cut) {
    FilesRead out;
    const double share = 1 / static_cast<double>(std::max<std::size_t>(1, files.size()));
    // The first says what it is about: where it holds a plate nothing behind it is read.
    const std::size_t together = 8 * std::max<std::size_t>(1, std::thread::hardware_concurrency());
    while (out.count < files.size()) {
        const std::size_t count = out.count == 0 ? 1 : std::min(together, files.size() - out.count);
        const std::span<const std::filesystem::path> part(files.data() + out.count, count);
        std::vector<OneFile> read;
        if (files.size() == 1) {
            read.push_back(readOne(files.front(), progress, cut));
        } else {
            read = readTogether(part, progress, share * static_cast<double>(out.count),
                                share * static_cast<double>(count), cut);
        }
        if (progress.cancelled()) {
            return fail("import.cancelled", read.front().content ? "Reading was cancelled; nothing was imported."
                                                                 : read.front().content.error().message);
        }
        for (std::size_t i = 0; i < count; ++i) {
            if (!take(read[i], part[i], out)) {
                return out;
            }
            ++out.count;
        }
    }
    if (files.size() == 1 && out.errors.size() == 1 && mayBeMarked(out.errors.front())) {
        const auto bytes = readFileBytes(files.front(), progress);
        out.cells = bytes ? cellsOfBytes(*bytes, files.front().filename().string(), progress) : nullptr;
    }
    return out;
}

Result<FilesRead> readPasted(const std::string& text) {
    NoProgress progress;
    const std::string name = "pasted block";
    auto content = readAnyBytes(text, name, progress);
    FilesRead out;
    if (!content) {
        out.cells = mayBeMarked(content.error()) ? cellsOfBytes(text, name, progress) : nullptr;
        if (out.cells == nullptr) {
            return tl::unexpected(content.error());
        }
        out.errors.push_back(content.error());
        return out;
    }
    if (auto* traces = std::get_if<FileContent>(&*content)) {
        out.traces.push_back({asChromatogram(std::move(*traces)), name, fnv1a(text)});
    } else {
        out.plates = std::get<std::vector<PlateImport>>(std::move(*content));
    }
    return out;
}

} // namespace nuvat
