// What a batch file must survive, tried at random: writers that are killed, bytes that rot. Run as
//   nuvat_faults kill SECONDS [SEED]    nuvat_faults rot VARIANTS [SEED]
// and answers with status 1 and the seed of each failure. Short runs are tests; long ones are made by hand.
#include "nuvat/store/batch_file.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/session.h"
#include "support/every_command.h"
#include "support/reference.h"
#include "support/sample_batch.h"

#include <array>
#include <atomic>
#include <chrono>
#include <csignal>
#include <cstdlib>
#include <fstream>
#include <iostream>
#include <map>
#include <random>
#include <sys/mman.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

namespace nuvat {
namespace {

using Random = std::mt19937_64;

// ---- killed writers

/// What the writer has been told is done; it lies in memory that both processes see.
struct Acknowledged {
    std::atomic<int> steps = 0;
    std::atomic<int> writes = 0; ///< whole files
};

/// The n-th step of a writer: commands of every kind, now and then an undo or a redo.
Result<void> step(Document& document, int n, Random& random) {
    const auto choice = random() % 8;
    if (choice == 0) {
        return document.undo();
    }
    if (choice == 1) {
        return document.redo();
    }
    const auto kinds = test::everyCommand(n);
    return document.apply(kinds[random() % kinds.size()].make(document.batch()));
}

/// Works on a file until it is killed. Steps that are refused, such as withdrawing what is not there, count too.
[[noreturn]] void write(const std::filesystem::path& path, std::uint64_t seed, Acknowledged& told) {
    Document document = test::openDocument(path);
    Random random(seed);
    for (int n = 1;; ++n) {
        (void)step(document, n, random);
        told.steps = n;
    }
}

/// Writes two batches over one another until it is killed.
[[noreturn]] void overwrite(const std::filesystem::path& path, const std::array<DocumentState, 2>& states,
                            Acknowledged& told) {
    for (int n = 1;; ++n) {
        (void)BatchFile::write(path, states[static_cast<std::size_t>(n % 2)]);
        told.writes = n;
    }
}

bool isSame(const DocumentState& a, const DocumentState& b) {
    return a.batch == b.batch && a.done == b.done && a.commands.size() == b.commands.size() &&
           a.history.size() == b.history.size();
}

void killAfter(pid_t child, Random& random) {
    ::usleep(static_cast<useconds_t>(3'000 + random() % 60'000));
    ::kill(child, SIGKILL);
    int status = 0;
    ::waitpid(child, &status, 0);
}

/// @return what is wrong, or nothing
std::string killOneWriter(const std::filesystem::path& path, std::uint64_t seed, Acknowledged& told) {
    Random random(seed);
    const Document begin = test::sampleDocument();
    if (!BatchFile::write(path, begin.state())) {
        return "the file could not be made";
    }
    told.steps = 0;
    const pid_t child = ::fork();
    if (child == 0) {
        write(path, seed, told);
    }
    killAfter(child, random);
    const auto opened = BatchFile::open(path);
    if (!opened) {
        return "it does not open: " + opened.error().text();
    }
    if (!opened->notes.empty()) {
        return "it opens with a note: " + opened->notes.front();
    }
    Document again(begin.state(), [] { return 5; });
    Random same(seed);
    int n = 1;
    for (; n <= told.steps; ++n) {
        (void)step(again, n, same);
    }
    if (isSame(opened->state, again.state())) {
        return {};
    }
    (void)step(again, n, same); // it may have been done and not yet told
    return isSame(opened->state, again.state()) ? std::string() : "it is not what the writer had been told is done";
}

std::string killOneOverwriter(const std::filesystem::path& path, std::uint64_t seed, Acknowledged& told) {
    Random random(seed);
    const std::array<DocumentState, 2> states{test::sampleDocument().state(), demoBatch({})->document->state()};
    if (!BatchFile::write(path, states[0])) {
        return "the file could not be made";
    }
    told.writes = 0;
    const pid_t child = ::fork();
    if (child == 0) {
        overwrite(path, states, told);
    }
    killAfter(child, random);
    const auto opened = BatchFile::open(path);
    if (!opened || !opened->notes.empty()) {
        return "it does not open whole: " + (opened ? opened->notes.front() : opened.error().text());
    }
    const bool isOne = isSame(opened->state, states[0]) || isSame(opened->state, states[1]);
    return isOne ? std::string() : "it is neither of the two batches";
}

int killWriters(double seconds, std::uint64_t seed) {
    void* shared = ::mmap(nullptr, sizeof(Acknowledged), PROT_READ | PROT_WRITE, MAP_SHARED | MAP_ANONYMOUS, -1, 0);
    auto& told = *new (shared) Acknowledged;
    const test::TemporaryFolder folder;
    const auto end = std::chrono::steady_clock::now() + std::chrono::duration<double>(seconds);
    int kills = 0;
    int failures = 0;
    long steps = 0;
    for (; std::chrono::steady_clock::now() < end; ++kills, ++seed) {
        const bool isOverwriter = kills % 5 == 4;
        const std::string wrong = isOverwriter ? killOneOverwriter(folder / "over.nuvat", seed, told)
                                               : killOneWriter(folder / "edited.nuvat", seed, told);
        steps += isOverwriter ? told.writes : told.steps;
        if (!wrong.empty()) {
            ++failures;
            std::cout << "seed " << seed << (isOverwriter ? " (files over files): " : " (edits): ") << wrong << "\n";
        }
    }
    std::cout << kills << " writers killed after " << steps << " steps, " << failures << " files lost or torn\n";
    return failures == 0 && steps > kills ? 0 : 1;
}

// ---- bytes that rot

/// Spoils some bytes of a file. @return how
std::string spoil(std::string& bytes, Random& random) {
    constexpr std::size_t kPage = 4096;
    const std::size_t pages = bytes.size() / kPage;
    const std::size_t at = random() % bytes.size();
    const std::size_t page = kPage * (random() % pages);
    switch (random() % 12) {
    case 0:
        bytes.resize(at);
        return "cut off";
    case 1:
        std::fill_n(bytes.begin() + static_cast<std::ptrdiff_t>(page), kPage, '\0');
        return "a page of zeros";
    case 2: {
        const std::size_t other = kPage * (random() % pages);
        std::swap_ranges(bytes.begin() + static_cast<std::ptrdiff_t>(page),
                         bytes.begin() + static_cast<std::ptrdiff_t>(page + kPage),
                         bytes.begin() + static_cast<std::ptrdiff_t>(other));
        return "pages exchanged";
    }
    case 3:
        for (std::size_t k = 0; k < 16 && at + k < bytes.size(); ++k) {
            bytes[at + k] = static_cast<char>(random());
        }
        return "sixteen bytes";
    case 4:
        bytes[at] = static_cast<char>(random());
        return "a byte";
    default:
        bytes[at] = static_cast<char>(bytes[at] ^ (1 << (random() % 8)));
        return "a bit";
    }
}

enum class Found : int { Refused, Said, Same, Text, Numbers };

/// Everything a report could print of a batch, without names and texts.
std::string digits(const Batch& batch) {
    Batch bare = batch;
    for (auto& [key, sample] : bare.samples) {
        sample.name = sample.note = "";
    }
    std::string json = evaluationJson(bare, evaluate(bare));
    return json;
}

/// Opens the file as the program does, evaluates it, takes everything back and does it again.
Found open(const std::filesystem::path& path, const DocumentState& truth, const std::string& trueDigits) {
    auto opened = openBatch(path, [] { return 5; });
    if (!opened) {
        return Found::Refused;
    }
    const Batch batch = opened->document->batch();
    const bool isSaid = !opened->notes.empty();
    while (opened->document->canUndo() && opened->document->undo()) {
        (void)evaluate(opened->document->batch());
    }
    while (opened->document->canRedo() && opened->document->redo()) {
    }
    if (isSaid) {
        return Found::Said;
    }
    if (batch == truth.batch) {
        return Found::Same;
    }
    return digits(batch) == trueDigits ? Found::Text : Found::Numbers;
}

int rot(int variants, std::uint64_t seed) {
    const test::TemporaryFolder folder;
    const auto path = folder / "rotten.nuvat";
    const auto demo = demoBatch(folder / "good.nuvat");
    const DocumentState truth = demo->document->state();
    const std::string trueDigits = digits(truth.batch);
    const std::string good = test::contentOf(folder / "good.nuvat");
    std::map<Found, int> counts;
    int failures = 0;
    for (int n = 0; n < variants; ++n, ++seed) {
        Random random(seed);
        std::string bytes = good;
        const std::string how = spoil(bytes, random);
        std::ofstream(path, std::ios::binary | std::ios::trunc) << bytes;
        const pid_t child = ::fork();
        if (child == 0) {
            [[maybe_unused]] constexpr rlim_t kMostBytes = rlim_t{2} << 30u;
            constexpr unsigned kMostSeconds = 20;
#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__) // they need all the addresses there are
            const rlimit most{kMostBytes, kMostBytes};
            ::setrlimit(RLIMIT_AS, &most);
#endif
            ::alarm(kMostSeconds);
            ::_exit(static_cast<int>(open(path, truth, trueDigits)));
        }
        int status = 0;
        ::waitpid(child, &status, 0);
        const bool hasEnded = WIFEXITED(status) && WEXITSTATUS(status) <= static_cast<int>(Found::Numbers);
        const Found found = hasEnded ? static_cast<Found>(WEXITSTATUS(status)) : Found::Numbers;
        ++counts[found];
        if (found == Found::Numbers) {
            ++failures;
            std::cout << "seed " << seed << " (" << how << "): "
                      << (hasEnded                      ? "numbers changed without a word"
                          : WTERMSIG(status) == SIGALRM ? "it hangs"
                                                        : "it crashes")
                      << "\n";
        }
    }
    std::cout << variants << " files: " << counts[Found::Refused] << " refused, " << counts[Found::Said]
              << " opened with a word, " << counts[Found::Same] << " the same, " << counts[Found::Text]
              << " with another text, " << failures << " wrong\n";
    return failures == 0 && counts[Found::Refused] > 0 && counts[Found::Same] > 0 ? 0 : 1;
}

} // namespace
} // namespace nuvat

int main(int count, char** words) {
    const std::string mode = count > 2 ? words[1] : "";
    const std::uint64_t seed = count > 3 ? std::strtoull(words[3], nullptr, 10) : 1;
    if (mode == "kill") {
        return nuvat::killWriters(std::atof(words[2]), seed);
    }
    if (mode == "rot") {
        return nuvat::rot(std::atoi(words[2]), seed);
    }
    std::cout << "Use: nuvat_faults kill SECONDS [SEED] or nuvat_faults rot VARIANTS [SEED]\n";
    return 2;
}
