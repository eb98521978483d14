#include "nuvat/workflow/run_journal.h"

#include "nuvat/batch/document.h"
#include "nuvat/batch/run_commands.h"
#include "nuvat/core/base/checksum.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cerrno>
#include <charconv>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <nlohmann/json.hpp>
#include <unistd.h>

namespace nuvat {

namespace {

using Json = nlohmann::json;

std::string headLine(const JournalHead& head) {
    return Json{{"nuvat", "run"},        {"batch", head.batch},       {"carrier", head.place.carrier},
                {"row", head.place.row}, {"name", head.name},         {"instrument", head.instrument},
                {"xUnit", head.xUnit},   {"channels", head.channels}, {"injectedMillis", head.injectedMillis}}
               .dump(-1, ' ', false, Json::error_handler_t::replace) +
           "\n";
}

JournalHead headOf(const std::string& line) {
    const Json json = Json::parse(line);
    if (json.at("nuvat") != "run") {
        throw std::runtime_error("another kind of file");
    }
    JournalHead out{json.at("batch"),         {json.at("row"), 0, json.at("carrier")},
                    json.at("name"),          json.at("instrument"),
                    json.at("xUnit"),         json.at("channels"),
                    json.at("injectedMillis")};
    constexpr std::size_t kMostChannels = 1000;
    if (out.channels.empty() || out.channels.size() > kMostChannels) {
        throw std::runtime_error("no channels");
    }
    return out;
}

/// The bits of a number, so that it comes back as it was.
void append(std::string& out, double value) {
    std::array<char, 17> digits{};
    const auto [end, error] =
        std::to_chars(digits.data(), digits.data() + digits.size(), std::bit_cast<std::uint64_t>(value), 16);
    out.append(digits.data(), end);
}

std::optional<double> numberOf(std::string_view text) {
    std::uint64_t bits = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), bits, 16);
    return error == std::errc() && end == text.data() + text.size() ? std::optional(std::bit_cast<double>(bits))
                                                                    : std::nullopt;
}

/// One sample of a line "x y y …." with a full stop at its end, which a line that was cut lacks.
bool readSample(std::string_view line, std::vector<double>& values) {
    values.clear();
    if (!line.ends_with('.')) {
        return false;
    }
    line.remove_suffix(1);
    while (true) {
        const std::size_t blank = line.find(' ');
        const auto value = numberOf(line.substr(0, blank));
        if (!value) {
            return false;
        }
        values.push_back(*value);
        if (blank == std::string_view::npos) {
            return true;
        }
        line.remove_prefix(blank + 1);
    }
}

bool writeAll(int file, std::string_view bytes) {
    while (!bytes.empty()) {
        const ssize_t done = ::write(file, bytes.data(), bytes.size());
        if (done < 0 && errno == EINTR) {
            continue;
        }
        if (done <= 0) {
            return false;
        }
        bytes.remove_prefix(static_cast<std::size_t>(done));
    }
    return true;
}

} // namespace

RunJournal::RunJournal(const std::filesystem::path& batch, JournalHead head)
    : m_path(batch.string() + ".run-" + std::to_string(head.place.carrier) + "-" + std::to_string(head.place.row + 1)),
      m_head(std::move(head)) {}

RunJournal::~RunJournal() {
    if (m_file >= 0) {
        ::close(m_file);
    }
}

Result<void> RunJournal::write(std::int64_t injectedMillis, const std::vector<double>& x,
                               const std::vector<std::vector<double>>& y) {
    m_isBroken = m_isBroken || injectedMillis != m_head.injectedMillis || x.size() < m_written;
    if (m_file < 0) {
        m_file = ::open(m_path.c_str(), O_CREAT | O_WRONLY | O_CLOEXEC, S_IRUSR | S_IWUSR);
    }
    std::string bytes;
    if (m_isBroken) {
        m_head.injectedMillis = injectedMillis;
        bytes = headLine(m_head);
        m_written = 0;
    }
    for (std::size_t i = m_written; i < x.size(); ++i) {
        append(bytes, x[i]);
        for (const auto& channel : y) {
            bytes += ' ';
            append(bytes, channel[i]);
        }
        bytes += ".\n";
    }
    const bool isReady =
        m_file >= 0 && (!m_isBroken || (::lseek(m_file, 0, SEEK_SET) == 0 && ::ftruncate(m_file, 0) == 0));
    if (!isReady || !writeAll(m_file, bytes) || ::fdatasync(m_file) != 0) {
        const std::string why = std::strerror(errno); // NOLINT(concurrency-mt-unsafe)
        m_isBroken = true;                            // a part may stand there; the next write begins anew
        return fail("file.cannot-write", m_path.string() + " cannot be written (" + why + ").",
                    "Make room on the disk. The run goes on, and it is tried again every second.");
    }
    m_isBroken = false;
    m_written = x.size();
    return {};
}

void RunJournal::remove() {
    std::error_code ignored;
    std::filesystem::remove(m_path, ignored);
}

namespace {

std::optional<RecoveredRun> recovered(const std::filesystem::path& path, const std::string& uid) {
    std::ifstream file(path, std::ios::binary);
    std::string line;
    if (!std::getline(file, line)) {
        return std::nullopt;
    }
    RecoveredRun out;
    out.journal = path;
    try {
        out.head = headOf(line);
    } catch (const std::exception&) {
        return std::nullopt;
    }
    std::vector<double> x, sample;
    std::vector<std::vector<double>> y(out.head.channels.size());
    while (std::getline(file, line) && readSample(line, sample) && sample.size() == y.size() + 1) {
        if (!x.empty() && sample.front() <= x.back()) {
            break;
        }
        x.push_back(sample.front());
        for (std::size_t channel = 0; channel < y.size(); ++channel) {
            y[channel].push_back(sample[channel + 1]);
        }
    }
    constexpr std::size_t kLeast = 3;
    if (out.head.batch != uid || x.size() < kLeast) {
        return std::nullopt;
    }
    out.run = {out.head.instrument, "", out.head.name, "recorded from the instrument, cut short", {}};
    std::string all;
    for (std::size_t channel = 0; channel < y.size(); ++channel) {
        Trace trace;
        trace.xName = out.head.xUnit == "nm" ? "wavelength" : out.head.xUnit == "V" ? "potential" : "time";
        trace.xUnit = out.head.xUnit;
        trace.yName = out.head.channels[channel];
        trace.setX(x);
        trace.y = y[channel];
        const Payload payload = Payload::of(std::move(trace));
        all += payload.id();
        out.run.channels.emplace_back(out.head.channels[channel], payload);
    }
    out.run.checksum = fnv1a(all);
    return out;
}

/// Whether the batch holds as much of the run as its journal.
bool isKept(const Batch& batch, const RecoveredRun& run) {
    const Reading* reading =
        batch.reading(Slot{run.head.place.carrier, run.head.place, run.run.channels.front().first});
    const auto trace = reading == nullptr ? nullptr : reading->payload.trace();
    const auto known = batch.runs.find(run.head.place);
    const bool isSame = known != batch.runs.end() && known->second.injectedMillis == run.head.injectedMillis;
    return trace && isSame && trace->size() >= run.run.channels.front().second.trace()->size();
}

} // namespace

std::vector<RecoveredRun> journalsOf(const std::filesystem::path& batch, const std::string& uid) {
    std::vector<RecoveredRun> out;
    std::error_code error;
    const std::string begin = batch.filename().string() + ".run-";
    const auto folder = batch.parent_path().empty() ? std::filesystem::path(".") : batch.parent_path();
    for (std::filesystem::directory_iterator it(folder, error), end; !error && it != end; it.increment(error)) {
        if (it->path().filename().string().starts_with(begin)) {
            if (auto run = recovered(it->path(), uid)) {
                out.push_back(std::move(*run));
            }
        }
    }
    std::ranges::sort(out, {}, [](const RecoveredRun& run) { return run.head.place; });
    return out;
}

Result<Command> keepRecovered(const Batch& batch, const RecoveredRun& run, std::int64_t nowMillis) {
    if (isKept(batch, run)) {
        return Command{};
    }
    return recordRun(batch, run.head.place, run.run, RunState::Failed, run.head.injectedMillis, nowMillis);
}

Result<std::size_t> recoverRuns(Document& document, const std::filesystem::path& batch) {
    std::size_t taken = 0;
    for (const RecoveredRun& run : journalsOf(batch, document.batch().info.uid)) {
        auto command = keepRecovered(document.batch(), run, document.now());
        const bool isNew = command && !command->changes.empty();
        if (const auto kept = document.apply(std::move(command)); !kept) {
            return tl::unexpected(kept.error());
        }
        taken += isNew ? 1u : 0u;
        std::error_code ignored;
        std::filesystem::remove(run.journal, ignored);
    }
    return taken;
}

} // namespace nuvat
