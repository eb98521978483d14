// The demo batch of organic acids: chromatograms at two wavelengths with an internal standard, invented here.
#include "demo_steps.h"
#include "nuvat/batch/analyte_list.h"
#include "nuvat/batch/name_rules.h"
#include "nuvat/core/signal/synthetic.h"

#include <array>
#include <cmath>

namespace nuvat {

namespace {

struct Acid {
    const char* name;
    double time;    ///< [min]
    double at210;   ///< height at 210 nm for 1 mg/L [mAU]
    double ratio;   ///< of the height at 226 nm to that
    double highest; ///< level [mg/L]
};
constexpr std::size_t kAcids = 8;
constexpr std::array<Acid, kAcids> kTable{{{"Citric acid", 5.1, 0.2, 0.42, 500},
                                           {"Tartaric acid", 6.02, 0.26, 0.36, 500},
                                           {"Malic acid", 7.63, 0.17, 0.34, 500},
                                           {"Quinic acid", 8.2, 0.12, 0.3, 500},
                                           {"Succinic acid", 9.62, 0.1, 0.28, 500},
                                           {"Lactic acid", 10.3, 0.08, 0.27, 1000},
                                           {"Fumaric acid", 11.15, 9.5, 0.55, 5},
                                           {"Acetic acid", 12.05, 0.06, 0.25, 1000}}};
constexpr Acid kInternal{"Adipic acid", 13.1, 0.9, 0.40, 20};
constexpr double kAdded = 20; ///< of the internal standard, in every run [mg/L]
constexpr int kLevels = 6;
constexpr double kDivisor = 2.5;

struct Vat {
    const char* name;
    std::array<double, kAcids> content; ///< [mg/L], as demo/acids/truth.csv
};
constexpr std::array<Vat, 12> kVats{{{"Cider base, vat 1", {11, 0, 198, 67.7, 9.09, 230, 0.161, 35.9}},
                                     {"Cider base, vat 2", {16.1, 0, 224, 71.9, 4.16, 0, 0.316, 21.3}},
                                     {"Cider base, vat 3", {9.4, 0, 331, 28.4, 9.17, 60, 0.285, 18.4}},
                                     {"Perry, lot 4", {15.6, 0, 185, 55.7, 5.09, 95, 0.298, 17.4}},
                                     {"Perry, lot 5", {9.52, 0, 153, 51.1, 7.83, 0, 0.166, 16.5}},
                                     {"Keeved cider, week 2", {14.8, 0, 357, 46.9, 7.47, 0, 0.117, 38.5}},
                                     {"Keeved cider, week 6", {11.3, 0, 234, 23.9, 4.13, 0, 0.131, 14.3}},
                                     {"Ice cider", {6.52, 0, 424, 59.7, 4.96, 0, 0.297, 23.9}},
                                     {"Windfall cider", {15.4, 0, 314, 52.3, 4.88, 0, 0.196, 32.7}},
                                     {"Quince wine", {15, 0, 289, 70.4, 6.43, 95, 0.155, 22.9}},
                                     {"Mead, sharp", {15.3, 0, 344, 61.5, 6.59, 0, 0.147, 17}},
                                     {"Verjuice", {6.41, 186, 358, 25.7, 6.09, 0, 0.208, 15.9}}}};

/// One injection, in the order in which they were measured.
struct Injection {
    std::string name;
    std::array<double, kAcids> content{};
    bool hasInternal = true;
};

std::array<double, kAcids> shareOfHighest(double share) {
    std::array<double, kAcids> out{};
    for (std::size_t i = 0; i < kAcids; ++i) {
        out[i] = share * kTable[i].highest;
    }
    return out;
}

std::vector<Injection> injections() {
    std::vector<Injection> out{{"Blank 1", {}, true}};
    for (int level = kLevels; level >= 1; --level) { // the lowest first
        out.push_back({"STD " + std::to_string(level), shareOfHighest(std::pow(kDivisor, 1 - level)), true});
    }
    out.push_back({"Blank 2", {}, true});
    const auto controls = [&out] {
        out.push_back({"QC low", shareOfHighest(0.06), true});
        out.push_back({"QC high", shareOfHighest(0.7), true});
    };
    controls();
    for (const Vat& vat : kVats) {
        out.push_back({vat.name, vat.content, true});
    }
    controls();
    return out;
}

constexpr std::size_t kRunWithRider = 14; ///< something else under the malic acid of Perry, lot 5: its ratio differs
constexpr std::size_t kRunThatDrifts = 18;

std::vector<double> signalOf(const Injection& injection, std::size_t run, bool isAt226) {
    constexpr double kSigma = 0.075, kTail = 0.03;
    const std::uint64_t seed = 4100 + 2 * run + (isAt226 ? 1 : 0);
    const double injected = 1 + 0.03 * normalNoise(77, run); // what the internal standard takes out again
    const double drift = 1 + 0.0006 * normalNoise(78, run) + (run == kRunThatDrifts ? 0.014 : 0);
    std::vector<SyntheticPeak> peaks{{1.6, 0.06, 30, 0.03}};
    const auto add = [&](const Acid& acid, double content) {
        const double height = acid.at210 * content * injected * (isAt226 ? acid.ratio : 1);
        peaks.push_back({acid.time * drift, kSigma, height, kTail});
    };
    for (std::size_t i = 0; i < kAcids; ++i) {
        add(kTable[i], injection.content[i] * (1 + 0.006 * normalNoise(79 + i, run)));
    }
    if (injection.hasInternal) {
        add(kInternal, kAdded);
    }
    if (run == kRunWithRider && isAt226) {
        peaks.push_back({kTable[2].time * drift, kSigma, 5.5, kTail});
    }
    constexpr double kMinutes = 14.5, kPerMinute = 120;
    std::vector<double> out;
    for (int i = 0; i <= static_cast<int>(kMinutes * kPerMinute); ++i) {
        const double minutes = i / kPerMinute;
        const double value = 1.2 + 0.04 * minutes + syntheticSignal(peaks, minutes) +
                             0.012 * normalNoise(seed, static_cast<std::uint64_t>(i));
        out.push_back(std::round(value * 1e4) / 1e4); // as a detector gives it
    }
    return out;
}

std::vector<ImportedRun> runs() {
    std::vector<ImportedRun> out;
    const auto all = injections();
    for (std::size_t i = 0; i < all.size(); ++i) {
        std::vector<std::pair<std::string, Trace>> channels;
        for (const bool isAt226 : {false, true}) {
            channels.emplace_back(
                isAt226 ? "226 nm" : "210 nm",
                Trace{"Time", "min", "Absorbance", "mAU", 0, 1.0 / 120, {}, signalOf(all[i], i, isAt226), {}});
        }
        out.push_back(inventedRun("acids", i + 1, all[i].name, std::move(channels)));
    }
    return out;
}

std::vector<ListedAnalyte> analytes() {
    std::vector<ListedAnalyte> out;
    for (const Acid& acid : kTable) {
        ListedAnalyte one;
        one.name = acid.name;
        one.time = acid.time;
        one.window = 0.2;
        one.quantifier = "210 nm";
        one.qualifiers = {{"226 nm", std::nullopt}};
        one.internal = kInternal.name;
        one.first = acid.highest;
        one.factor = kDivisor;
        one.levels = kLevels;
        one.unit = "mg/L";
        out.push_back(one);
    }
    ListedAnalyte internal;
    internal.name = kInternal.name;
    internal.time = kInternal.time;
    internal.window = 0.25;
    internal.added = kAdded;
    internal.unit = "mg/L";
    out.push_back(internal);
    return out;
}

} // namespace

Result<OpenBatch> acidsDemo(const std::filesystem::path& path) {
    // 7 October 2026, 09:00 UTC and on.
    constexpr std::int64_t kBegin = 1'791'363'600'000;
    DocumentState state;
    state.batch.info = {"a1de7b700c5e003d", "Organic acids in cider, week 41", "Alderbrook laboratory", "", ""};
    state.batch.method.title = "Organic acids by LC";
    SignalRule rule;
    rule.peaks.ignored = {{0, 3}};
    state.batch.method.signalRules = {{"210 nm", rule}, {"226 nm", rule}};
    std::vector<Step> steps{[=](const Batch& b) { return importRuns(b, runs(), kBegin); },
                            [](const Batch& b) { return rolesFromNames(b, 1); },
                            [](const Batch& b) { return setAnalytes(b, analytes()); },
                            [](const Batch& b) {
                                Method method = b.method;
                                method.analyte(1).suitability = {.tailing = 2, .resolution = 1.5, .timeRsd = 1};
                                return setMethod(b, method);
                            },
                            [](const Batch& b) { return applyToAll(b, 1, {.limits = true}); },
                            // The first of all peaks has none before it to be parted from.
                            [](const Batch& b) {
                                Method method = b.method;
                                method.analyte(1).suitability.resolution.reset();
                                method.plan = StandardPlan{"Acids, mixed", "mL", {PlanWay::Direct, 1000, 10, 0.5}};
                                return setMethod(b, method);
                            }};
    for (int analyte = 1; analyte <= static_cast<int>(kAcids); ++analyte) {
        const double highest = kTable[static_cast<std::size_t>(analyte) - 1].highest;
        steps.emplace_back([=](const Batch& b) { return setQc(b, 1, {"QC low", 0.06 * highest}, analyte); });
        steps.emplace_back([=](const Batch& b) { return setQc(b, 2, {"QC high", 0.7 * highest}, analyte); });
    }
    return made(std::move(state), kBegin, steps, path);
}

} // namespace nuvat
