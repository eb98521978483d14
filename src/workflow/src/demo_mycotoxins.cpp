// The demo batch of mycotoxins: two mass channels an analyte, three labelled standards, sets of standards that bracket
// the samples; invented here.
#include "demo_steps.h"
#include "nuvat/batch/analyte_list.h"
#include "nuvat/batch/name_rules.h"
#include "nuvat/core/signal/synthetic.h"

#include <array>
#include <cmath>

namespace nuvat {

namespace {

struct Toxin {
    const char* name;
    const char* quantifier; ///< channel
    const char* qualifier;
    double time;     ///< [min]
    double response; ///< height for 1 µg/kg [counts]
    double ratio;    ///< of the qualifier to that
    double highest;  ///< level [µg/kg]
    std::size_t internal;
};
constexpr std::size_t kToxins = 12;
constexpr std::array<Toxin, kToxins> kTable{{{"Nivalenol", "NIV 313>125", "NIV 313>205", 2.31, 110, 0.55, 1000, 0},
                                             {"Deoxynivalenol", "DON 297>249", "DON 297>203", 2.84, 150, 0.38, 1000, 0},
                                             {"Aflatoxin G2", "AFG2 331>245", "AFG2 331>313", 4.02, 4500, 0.82, 10, 1},
                                             {"Aflatoxin G1", "AFG1 329>243", "AFG1 329>200", 4.3, 5500, 0.6, 10, 1},
                                             {"Aflatoxin B2", "AFB2 315>287", "AFB2 315>259", 4.55, 5000, 0.74, 10, 1},
                                             {"Aflatoxin B1", "AFB1 313>285", "AFB1 313>241", 4.84, 6500, 0.78, 10, 1},
                                             {"Fumonisin B1", "FB1 722>334", "FB1 722>352", 5.6, 200, 0.92, 1000, 2},
                                             {"HT-2 toxin", "HT2 442>263", "HT2 442>215", 5.95, 450, 0.65, 200, 2},
                                             {"T-2 toxin", "T2 484>305", "T2 484>215", 6.42, 800, 0.71, 200, 2},
                                             {"Fumonisin B2", "FB2 706>336", "FB2 706>318", 6.7, 225, 0.5, 1000, 2},
                                             {"Ochratoxin A", "OTA 404>239", "OTA 404>358", 7.04, 2000, 0.44, 20, 2},
                                             {"Zearalenone", "ZEA 319>283", "ZEA 319>187", 7.25, 600, 0.33, 200, 2}}};
struct Labelled {
    const char* name;
    const char* channel;
    double time, height, added;
};
constexpr std::array<Labelled, 3> kLabelled{{{"[13C15]-Deoxynivalenol", "DON-L 312>263", 2.835, 45000, 250},
                                             {"[13C17]-Aflatoxin B1", "AFB1-L 330>301", 4.835, 32500, 5},
                                             {"[13C20]-Ochratoxin A", "OTA-L 424>250", 7.035, 26000, 10}}};
constexpr int kLevels = 7;
constexpr double kDivisor = 2.5;
constexpr double kHalfWindow = 0.75; ///< a channel is recorded about the time at which its peak is expected [min]

/// Samples by what they are of: which of the toxins they hold, and how strongly the matrix weakens the signal.
struct Lot {
    const char* name;
    double suppression;
    std::array<double, kToxins> content; ///< [µg/kg], as demo/mycotoxins/truth.csv
};
constexpr std::array<Lot, 28> kLots{{
    {"Wheat, lot 1", 0.54, {76.8, 402, 0, 0, 0, 0, 0, 0, 0, 0, 0, 61.6}},
    {"Wheat, lot 2", 0.62, {35.1, 97.8, 0, 0, 0, 0, 0, 0, 0, 0, 2.39, 45.4}},
    {"Wheat, lot 3", 0.61, {130, 350, 0, 0, 0, 0, 0, 0, 0, 0, 6.64, 0}},
    {"Rye, lot 1", 0.64, {193, 237, 0, 0, 0, 0, 0, 0, 0, 0, 6.93, 16.5}},
    {"Rye, lot 2", 0.72, {0, 494, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}},
    {"Oats, lot 1", 0.63, {0, 0, 0, 0, 0, 0, 0, 64.2, 51.5, 0, 0, 0}},
    {"Oats, lot 2", 0.60, {0, 0, 0, 0, 0, 0, 0, 88.9, 38.9, 0, 0, 0}},
    {"Oats, lot 3", 0.75, {0, 0, 0, 0, 0, 0, 0, 23.7, 21.4, 0, 0, 0}},
    {"Maize, lot 1", 0.63, {0, 147, 0, 0, 0, 0, 164, 0, 0, 38.5, 0, 28.1}},
    {"Maize, lot 2", 0.52, {0, 143, 0, 0, 0, 0, 1730, 0, 0, 100, 0, 36.8}},
    {"Maize, lot 3", 0.50, {0, 305, 0, 0, 0.566, 2.65, 618, 0, 0, 180, 0, 33.7}},
    {"Barley malt, lot 1", 0.58, {0, 402, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}},
    {"Barley malt, lot 2", 0.54, {83.6, 176, 0, 0, 0, 0, 0, 0, 0, 0, 0, 24.8}},
    {"Muesli, mixed", 0.65, {0, 223, 0, 0, 0, 0, 0, 41.2, 22.3, 0, 0, 74}},
    {"Cider base, vat 2", 0.93, {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}},
    {"Cider base, vat 3", 0.91, {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}},
    {"Perry, lot 8", 0.89, {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}},
    {"Keeved cider, week 6", 0.92, {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}},
    {"Windfall cider", 0.93, {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}},
    {"Apple pomace, dried", 0.50, {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}},
    {"Pear pomace, dried", 0.67, {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}},
    {"Spelt, lot 1", 0.70, {48.6, 100, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}},
    {"Spelt, lot 2", 0.55, {199, 84.9, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}},
    {"Buckwheat", 0.60, {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 2.09, 0}},
    {"Millet", 0.66, {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 7.45, 0}},
    {"Bran, wheat", 0.52, {0, 197, 0, 0, 0, 0, 0, 0, 0, 0, 0, 40.4}},
    {"Bran, oats", 0.64, {115, 532, 0, 0, 0, 0, 0, 43.9, 41.9, 0, 0, 73.9}},
    {"Feed mix, sheep", 0.52, {0, 56.8, 0, 0, 0, 0, 524, 0, 0, 105, 0, 45.9}},
}};

struct Injection {
    std::string name;
    std::array<double, kToxins> content{};
    double suppression = 1;
    bool hasLabelled = true;
};

std::vector<Injection> injections() {
    std::vector<Injection> out;
    const auto ofHighest = [](double share) {
        std::array<double, kToxins> content{};
        for (std::size_t i = 0; i < kToxins; ++i) {
            content[i] = share * kTable[i].highest;
        }
        return content;
    };
    const auto standards = [&] {
        for (int level = kLevels; level >= 1; --level) { // the lowest first
            out.push_back({"STD " + std::to_string(level), ofHighest(std::pow(kDivisor, 1 - level))});
        }
        out.push_back({"Blank after standards"});
        out.push_back({"QC low", ofHighest(0.012), 0.85});
        out.push_back({"QC high", ofHighest(0.6), 0.85});
    };
    out.push_back({"Double blank", {}, 1, false});
    standards();
    for (std::size_t i = 0; i < kLots.size(); ++i) {
        if (i == kLots.size() / 2) {
            standards();
        }
        out.push_back({kLots[i].name, kLots[i].content, kLots[i].suppression});
    }
    standards();
    out.push_back({"Blank at the end"});
    return out;
}

constexpr std::size_t kRunWithInterference = 19; ///< something else in the qualifier of zearalenone
constexpr std::size_t kRunWithLittleInternal = 43;

struct Channel {
    std::string name;
    double time = 0;
    double height = 0;
    bool hasNeighbour = false; ///< something else beside the peak
};

Trace traceOf(const Channel& channel, std::size_t run, std::uint64_t seed) {
    constexpr double kStep = 0.0125, kSigma = 0.045, kTail = 0.025, kGround = 18, kSpray = 4, kShare = 0.012;
    std::vector<SyntheticPeak> peaks;
    const double late = 1 + 0.0007 * normalNoise(301, run);
    if (channel.height > 0) {
        peaks.push_back({channel.time * late, kSigma, channel.height, kTail});
    }
    if (channel.hasNeighbour) {
        peaks.push_back({channel.time * late + 0.02, kSigma, 2600, kTail});
    }
    const double from = std::round((channel.time - kHalfWindow) / kStep) * kStep;
    Trace out{"Time", "min", "Intensity", "counts", from, kStep, {}, {}, {}};
    for (int i = 0; i <= static_cast<int>(2 * kHalfWindow / kStep); ++i) {
        const double ideal = syntheticSignal(peaks, from + kStep * i);
        const double noise = normalNoise(seed, static_cast<std::uint64_t>(i));
        out.y.push_back(std::max(0.0, std::round(kGround + ideal + noise * std::hypot(kSpray, kShare * ideal))));
    }
    return out;
}

std::vector<ImportedRun> runs() {
    std::vector<ImportedRun> out;
    const auto all = injections();
    for (std::size_t run = 0; run < all.size(); ++run) {
        // The source grows dirty: a fifth of the sensitivity goes in the course of the batch.
        const double sensitivity = (1 - 0.2 * static_cast<double>(run) / static_cast<double>(all.size())) *
                                   (1 + 0.02 * normalNoise(302, run)) * all[run].suppression;
        std::vector<std::pair<std::string, Trace>> channels;
        std::uint64_t seed = 5000 + 64 * run;
        for (std::size_t i = 0; i < kToxins; ++i) {
            const Toxin& toxin = kTable[i];
            const double height =
                toxin.response * all[run].content[i] * sensitivity * (1 + 0.015 * normalNoise(310 + i, run));
            const bool isDisturbed = run == kRunWithInterference && i + 1 == kToxins;
            channels.emplace_back(toxin.quantifier, traceOf({"", toxin.time, height}, run, ++seed));
            channels.emplace_back(toxin.qualifier,
                                  traceOf({"", toxin.time, height * toxin.ratio, isDisturbed}, run, ++seed));
        }
        for (const Labelled& one : kLabelled) {
            const double share = !all[run].hasLabelled ? 0 : run == kRunWithLittleInternal ? 0.42 : 1;
            channels.emplace_back(one.channel, traceOf({"", one.time, one.height * share * sensitivity}, run, ++seed));
        }
        out.push_back(inventedRun("mycotoxins", run + 1, all[run].name, std::move(channels)));
    }
    return out;
}

std::vector<ListedAnalyte> analytes() {
    std::vector<ListedAnalyte> out;
    for (const Toxin& toxin : kTable) {
        ListedAnalyte one;
        one.name = toxin.name;
        one.time = toxin.time;
        one.window = 0.15;
        one.quantifier = toxin.quantifier;
        one.qualifiers = {{toxin.qualifier, std::nullopt}};
        one.internal = kLabelled.at(toxin.internal).name;
        one.first = toxin.highest;
        one.factor = kDivisor;
        one.levels = kLevels;
        one.unit = "µg/kg";
        out.push_back(one);
    }
    for (const Labelled& labelled : kLabelled) {
        ListedAnalyte one;
        one.name = labelled.name;
        one.time = labelled.time;
        one.window = 0.15;
        one.quantifier = labelled.channel;
        one.added = labelled.added;
        one.unit = "µg/kg";
        out.push_back(one);
    }
    return out;
}

Result<Command> withCurves(const Batch& batch) {
    Method method = batch.method;
    for (std::size_t i = 0; i < kToxins; ++i) {
        Analyte& analyte = method.analytes[i];
        analyte.source.curve = CurveOf::Bracket;
        analyte.fit = {.model = Model::Line, .weighting = Weighting::InverseX2};
        analyte.suitability = {.signalToNoise = 10, .timeRsd = 1, .carryOver = 20};
    }
    return setMethod(batch, method);
}

} // namespace

Result<OpenBatch> mycotoxinsDemo(const std::filesystem::path& path) {
    // 14 October 2026, 18:00 UTC and on.
    constexpr std::int64_t kBegin = 1'792'000'800'000;
    DocumentState state;
    state.batch.info = {"a1de7b700c5e003e", "Mycotoxins in grain and cider, week 42", "Alderbrook laboratory", "", ""};
    state.batch.method.title = "Mycotoxins by LC-MS";
    state.batch.method.subtractsBlank = false;
    std::vector<Step> steps{[=](const Batch& b) { return importRuns(b, runs(), kBegin); },
                            [](const Batch& b) { return rolesFromNames(b, 1); },
                            [](const Batch& b) { return setAnalytes(b, analytes()); }, withCurves};
    for (int analyte = 1; analyte <= static_cast<int>(kToxins); ++analyte) {
        const double highest = kTable.at(static_cast<std::size_t>(analyte) - 1).highest;
        steps.emplace_back([=](const Batch& b) { return setQc(b, 1, {"QC low", 0.012 * highest}, analyte); });
        steps.emplace_back([=](const Batch& b) { return setQc(b, 2, {"QC high", 0.6 * highest}, analyte); });
    }
    return made(std::move(state), kBegin, steps, path);
}

} // namespace nuvat
