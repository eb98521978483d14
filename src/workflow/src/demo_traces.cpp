// The demo batches of traces of Alderbrook.
#include "demo_data.h"
#include "demo_steps.h"
#include "nuvat/workflow/trace_import.h"

#include <array>

namespace nuvat {

namespace {

Step readRuns(const std::string& name, const char* content, std::int64_t now) {
    return [name, content, now](const Batch& batch) -> Result<Command> {
        NoProgress progress;
        auto read = readAnyBytes(content, name, progress);
        if (!read) {
            return tl::unexpected(read.error());
        }
        auto* traces = std::get_if<FileContent>(&*read);
        if (traces == nullptr) {
            return fail("peaks.no-trace", name + " holds no trace.", "Make the demo data again.");
        }
        auto runs = runsOf({std::move(*traces), name, "demo"});
        return runs ? importRuns(batch, *runs, now) : Result<Command>(tl::unexpected(runs.error()));
    };
}

Step roles(int from, int to, Role role, int replicates) {
    return [=](const Batch& b) { return assignRole(b, block(from, to, 0, 0), role, replicates, Direction::Down); };
}

DocumentState fresh(const std::string& uid, const std::string& title, const std::string& method) {
    DocumentState out;
    out.batch.info.uid = uid;
    out.batch.info.title = title;
    out.batch.info.laboratory = "Alderbrook laboratory";
    out.batch.method.title = method;
    out.batch.method.subtractsBlank = false;
    return out;
}

struct Ester {
    const char* name;
    double expected, highest; ///< [min], [mg/L]
};
constexpr std::array<Ester, 4> kEsters{{{"Ethyl acetate", 2.84, 100},
                                        {"Isoamyl acetate", 4.62, 20},
                                        {"Ethyl hexanoate", 5.32, 5},
                                        {"Ethyl octanoate", 7.49, 5}}};
constexpr int kLevels = 6;

/// A control has the same number wherever it is injected.
Step controls() {
    return [](const Batch& batch) {
        Command command;
        command.label = "QC runs";
        for (const auto& [row, number] : {std::pair(7, 1), std::pair(8, 2), std::pair(15, 1), std::pair(22, 2)}) {
            const auto before = batch.places.find({row, 0});
            command.changes.emplace_back(
                PlaceChange{{row, 0},
                            before == batch.places.end() ? std::nullopt : std::optional(before->second),
                            Assignment{Role::Qc, number}});
        }
        return Result<Command>(command);
    };
}

} // namespace

Result<OpenBatch> estersDemo(const std::filesystem::path& path) {
    // 18 September 2026, 14:00 UTC and on.
    constexpr std::int64_t kBegin = 1'789'740'000'000;
    DocumentState state = fresh("a1de7b700c5e003b", "Esters in cider, week 38", "Esters by GC");
    Method& method = state.batch.method;
    method.criteriaName = shippedCriteria().front().name;
    method.limits = shippedCriteria().front().limits;
    method.analytes.clear();
    for (const Ester& ester : kEsters) {
        Analyte analyte;
        analyte.name = ester.name;
        analyte.unit = "mg/L";
        analyte.responseName = "Area, pA·min";
        analyte.isConcentrationLogarithmic = false;
        analyte.fit = {.model = Model::Line, .weighting = Weighting::InverseX};
        analyte.source.rule = PeakRule{.channel = "signal", .expected = ester.expected, .window = 0.08};
        analyte.internal.analyte = static_cast<int>(kEsters.size()) + 1;
        method.analytes.push_back(analyte);
    }
    Analyte propanol = method.analytes.back();
    propanol.name = "1-Propanol";
    propanol.internal = {};
    propanol.source.rule = PeakRule{.channel = "signal", .expected = 3.63, .window = 0.1};
    propanol.addedConcentration = 40;
    method.analytes.push_back(propanol);
    SignalRule rule;
    rule.peaks.ignored = {{0, 2.2}};
    method.signalRules["signal"] = rule;
    std::vector<Step> steps{readRuns("esters.tsv", kEstersRuns, kBegin),
                            roles(0, 0, Role::Blank, 1),
                            roles(1, 6, Role::Standard, 1),
                            controls(),
                            roles(9, 14, Role::Unknown, 2),
                            roles(16, 21, Role::Unknown, 2),
                            roles(23, 23, Role::Blank, 1)};
    for (int analyte = 1; analyte <= static_cast<int>(kEsters.size()); ++analyte) {
        const double highest = kEsters[static_cast<std::size_t>(analyte) - 1].highest;
        steps.emplace_back([=](const Batch& b) { return setSeries(b, {highest, true, 2.5, kLevels}, analyte); });
        steps.emplace_back([=](const Batch& b) { return setQc(b, 1, {"Control low", 0.03 * highest}, analyte); });
        steps.emplace_back([=](const Batch& b) { return setQc(b, 2, {"Control high", 0.7 * highest}, analyte); });
    }
    steps.emplace_back([](const Batch& b) {
        return pasteSampleNames(b, 1,
                                "Cider base, vat 2\nCider base, vat 3\nCider base, vat 5\nPerry, lot 8\n"
                                "Keeved cider, week 6\nWindfall cider\n");
    });
    return made(std::move(state), kBegin, steps, path);
}

Result<OpenBatch> ascorbicAcidDemo(const std::filesystem::path& path) {
    // 21 September 2026, 08:20 UTC and on.
    constexpr std::int64_t kBegin = 1'789'978'800'000;
    DocumentState state = fresh("a1de7b700c5e003c", "Ascorbic acid in juice, week 39", "Ascorbic acid by addition");
    Analyte& analyte = state.batch.method.analyte();
    analyte.name = "Ascorbic acid";
    analyte.unit = "mg/L";
    analyte.responseName = "Peak current, µA";
    analyte.isConcentrationLogarithmic = false;
    analyte.fit = {.model = Model::Line, .weighting = Weighting::None};
    analyte.source.curve = CurveOf::Sample;
    analyte.source.rule =
        PeakRule{.channel = "signal", .expected = 0.332, .window = 0.03, .quantity = PeakQuantity::SampleHeight};
    SignalRule rule;
    rule.peaks.baseline.kind = BaselineKind::Tangent;
    rule.scanRate = 0.1; // 25 Hz times 4 mV
    state.batch.method.signalRules["signal"] = rule;
    const Step additions = [](const Batch&) {
        constexpr int kRunsPerJuice = 8;
        Command command;
        command.label = "Each juice with three additions";
        for (int row = 0; row < 2 * kRunsPerJuice; ++row) {
            const int step = row % kRunsPerJuice / 2;
            const int juice = row / kRunsPerJuice + 1;
            command.changes.emplace_back(
                PlaceChange{{row, 0},
                            std::nullopt,
                            step == 0 ? Assignment{Role::Unknown, juice} : Assignment{Role::Addition, juice, step}});
        }
        return Result<Command>(command);
    };
    return made(std::move(state), kBegin,
                {readRuns("ascorbic-acid.tsv", kAscorbicAcidRuns, kBegin), additions,
                 [](const Batch& b) {
                     return setSeries(b, {10, false, 2, 3});
                 },
                 [](const Batch& b) { return setLevel(b, 3, 30); },
                 [](const Batch& b) { return pasteSampleNames(b, 1, "Sea buckthorn juice\nRusset juice, lot 12\n"); }},
                path);
}

} // namespace nuvat
