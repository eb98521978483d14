// The demo batches of Alderbrook, made by the same commands that a person would give.
#include "demo_data.h"
#include "demo_steps.h"
#include "nuvat/core/base/checksum.h"
#include "nuvat/store/batch_file.h"
#include "nuvat/workflow/session.h"

#include <algorithm>
#include <array>
#include <iterator>
#include <sstream>

namespace nuvat {

Result<PlateImport> demoImport(const std::string& name) {
    std::istringstream plate{std::string(kDemoPlate)};
    NoProgress progress;
    auto reads = readPlates(plate, name, progress);
    return reads ? Result<PlateImport>(std::move(reads->front())) : tl::unexpected(reads.error());
}

std::vector<Place> block(int firstRow, int lastRow, int firstColumn, int lastColumn, int carrier) {
    std::vector<Place> places;
    for (int row = firstRow; row <= lastRow; ++row) {
        for (int column = firstColumn; column <= lastColumn; ++column) {
            places.push_back({row, column, carrier});
        }
    }
    return places;
}

ImportedRun inventedRun(const std::string& batch, std::size_t number, const std::string& name,
                        std::vector<std::pair<std::string, Trace>> channels) {
    const std::string digits = std::to_string(number);
    const std::size_t count = channels.size();
    ImportedRun run{batch + "-" + std::string(3 - std::min<std::size_t>(3, digits.size()), '0') + digits + ".csv",
                    "",
                    name,
                    "chromatogram, " + std::to_string(count) + (count == 1 ? " channel" : " channels"),
                    {}};
    std::string ids;
    for (auto& [channel, trace] : channels) {
        const Payload payload = Payload::of(std::move(trace));
        ids += payload.id();
        run.channels.emplace_back(channel, payload);
    }
    run.checksum = fnv1a(ids);
    return run;
}

Result<OpenBatch> made(DocumentState fresh, std::int64_t now, const std::vector<Step>& steps,
                       const std::filesystem::path& path) {
    Document document(std::move(fresh), [&now] { return now; });
    for (const Step& step : steps) {
        if (auto done = document.apply(step(document.batch())); !done) {
            return tl::unexpected(done.error());
        }
        now += 20'000;
    }
    if (!path.empty()) {
        if (auto written = BatchFile::write(path, document.state()); !written) {
            return tl::unexpected(written.error());
        }
        return openBatch(path);
    }
    OpenBatch open;
    open.document = std::make_unique<Document>(document.state());
    return open;
}

namespace {

Step readFile(const std::string& name, const char* content, std::int64_t now) {
    return [name, content, now](const Batch& batch) -> Result<Command> {
        std::istringstream stream{std::string(content)};
        NoProgress progress;
        auto reads = readPlates(stream, name, progress);
        if (!reads) {
            return tl::unexpected(reads.error());
        }
        return importReads(batch, *reads, 0, now);
    };
}

/// A straight line through polyphenol standards, read at 765 nm less the turbidity at 900 nm.
DocumentState polyphenolMethod(const std::string& uid, const std::string& title) {
    DocumentState fresh;
    fresh.batch.info.uid = uid;
    fresh.batch.info.title = title;
    fresh.batch.info.laboratory = "Alderbrook laboratory";
    Method& method = fresh.batch.method;
    method.title = "Total polyphenols";
    method.revision = 2;
    Analyte& analyte = method.analyte();
    analyte.name = "Polyphenols";
    analyte.unit = "mg/L";
    analyte.responseName = "Absorbance 765 nm";
    analyte.fit = {.model = Model::Line, .weighting = Weighting::InverseX};
    analyte.source.rule = ValueRule{"765 nm − 900 nm"};
    return fresh;
}

/// The last two rows of each plate hold the samples of the two rows above them, four times as dilute.
Step furtherDilutions(int plates) {
    return [plates](const Batch& batch) {
        Command command;
        command.label = "Second dilution of the samples in rows M and N";
        for (int carrier = 1; carrier <= plates; ++carrier) {
            for (const Place place : block(14, 15, 2, 23, carrier)) {
                const int number = batch.at({place.row - 2, place.column, carrier}).number;
                command.changes.emplace_back(PlaceChange{place, std::nullopt, Assignment{Role::Unknown, number, 2}});
                if (place.column % 2 == 0) {
                    command.changes.emplace_back(
                        PreparationChange{{number, 2}, std::nullopt, Preparation{.dilution = 40}});
                }
            }
        }
        return Result<Command>(command);
    };
}

/// All samples as they came from the works, diluted by ten.
Result<Command> namedSamples(const Batch& batch) {
    constexpr std::array<const char*, 6> kKinds{"Cider base", "Perry",      "Russet juice",
                                                "Quince mix", "Pear blend", "Rhubarb blend"};
    Command command;
    command.label = "Samples named, diluted by 10";
    for (const auto& [number, sample] : batch.samples) {
        const auto index = static_cast<std::size_t>(number - 1);
        Sample named = sample;
        named.name =
            std::string(kKinds.at(index % kKinds.size())) + ", lot " + std::to_string(index / kKinds.size() + 1);
        named.dilution = 10;
        command.changes.emplace_back(SampleChange{{number}, sample, named});
    }
    return command;
}

Result<OpenBatch> polyphenolsDemo(const std::filesystem::path& path) {
    // 16 September 2026, 09:40 UTC and on.
    constexpr std::int64_t kBegin = 1'789'551'600'000;
    std::vector<Step> steps{readFile("plate-1.tsv", kPolyphenols1, kBegin),
                            readFile("plate-2.tsv", kPolyphenols2, kBegin),
                            readFile("plate-3.tsv", kPolyphenols3, kBegin)};
    const auto assign = [&steps](std::vector<Place> places, Role role, int replicates) {
        steps.emplace_back([=](const Batch& b) { return assignRole(b, places, role, replicates, Direction::Across); });
    };
    // The levels and QCs of each plate are those of the others: replicates over plates.
    const auto repeated = [](int rows, int first, int carriers, Role role) {
        return [=](const Batch& batch) {
            Command command;
            command.label = "Standards and QCs on every plate";
            for (int carrier = 1; carrier <= carriers; ++carrier) {
                for (const Place place : block(first, first + rows - 1, 0, 1, carrier)) {
                    const int perNumber = role == Role::Qc ? 3 : 1; // rows
                    const auto found = batch.places.find(place);
                    command.changes.emplace_back(
                        PlaceChange{place, found == batch.places.end() ? std::nullopt : std::optional(found->second),
                                    Assignment{role, 1 + (place.row - first) / perNumber}});
                }
            }
            return Result<Command>(command);
        };
    };
    constexpr int kPlates = 3;
    steps.emplace_back(repeated(6, 0, kPlates, Role::Standard));
    for (int carrier = 1; carrier <= kPlates; ++carrier) {
        assign(block(6, 9, 0, 1, carrier), Role::Blank, 2);
    }
    steps.emplace_back(repeated(6, 10, kPlates, Role::Qc));
    for (int carrier = 1; carrier <= kPlates; ++carrier) {
        assign(block(0, 13, 2, 23, carrier), Role::Unknown, 2);
    }
    steps.emplace_back(furtherDilutions(kPlates));
    steps.emplace_back(namedSamples);
    steps.emplace_back([](const Batch& b) { return setSeries(b, {400, true, 2, 6}); });
    steps.emplace_back([](const Batch& b) { return setQc(b, 1, {"QC lo", 40}); });
    steps.emplace_back([](const Batch& b) { return setQc(b, 2, {"QC hi", 240}); });
    steps.emplace_back([](const Batch& b) {
        Method method = b.method;
        method.analyte().decisions = {DecisionBy::Interval, {800, 2000}, {"mild", "even", "bold"}};
        return setMethod(b, method);
    });
    return made(polyphenolMethod("a1de7b700c5e0039", "Total polyphenols, week 38"), kBegin, steps, path);
}

Result<OpenBatch> cuvettesDemo(const std::filesystem::path& path) {
    constexpr std::int64_t kBegin = 1'789'555'200'000;
    const auto assign = [](int from, int to, Role role, int replicates) {
        return [=](const Batch& b) { return assignRole(b, block(from, to, 0, 0), role, replicates, Direction::Down); };
    };
    const std::vector<Step> steps{readFile("cuvettes.csv", kCuvettes, kBegin),
                                  assign(0, 2, Role::Blank, 1),
                                  assign(3, 14, Role::Standard, 2),
                                  assign(15, 16, Role::Qc, 2),
                                  assign(17, 34, Role::Unknown, 3),
                                  [](const Batch& b) {
                                      return setSeries(b, {400, true, 2, 6});
                                  },
                                  [](const Batch& b) {
                                      return setQc(b, 1, {"Control cider", 120});
                                  }};
    return made(polyphenolMethod("a1de7b700c5e003a", "Polyphenols in cuvettes, week 38"), kBegin, steps, path);
}

/// A demo with what makes it.
struct DemoEntry {
    Demo demo;
    Result<OpenBatch> (*make)(const std::filesystem::path&);
};
constexpr std::size_t kDemos = 8;
const std::array<DemoEntry, kDemos>& entries() {
    static const std::array<DemoEntry, kDemos> all{
        {{{"patulin", "Patulin in juice", "competitive ELISA, 96 wells, falling 4PL"}, demoBatch},
         {{"polyphenols", "Total polyphenols", "three plates of 384 wells, one line"}, polyphenolsDemo},
         {{"cuvettes", "Polyphenols in cuvettes", "single readings, two wavelengths"}, cuvettesDemo},
         {{"acids", "Organic acids", "liquid chromatography, two wavelengths"}, acidsDemo},
         {{"mycotoxins", "Mycotoxins", "mass spectrometry, brackets"}, mycotoxinsDemo},
         {{"esters", "Esters in cider", "gas chromatography, internal standard"}, estersDemo},
         {{"sulfite", "Free sulfite", "flow injection, best 2 of 3, run list"}, sulfiteDemo},
         {{"ascorbic-acid", "Ascorbic acid in juice", "square wave, standard addition"}, ascorbicAcidDemo}}};
    return all;
}

} // namespace

const std::vector<Demo>& demos() {
    static const std::vector<Demo> all = [] {
        std::vector<Demo> out;
        std::ranges::transform(entries(), std::back_inserter(out), &DemoEntry::demo);
        return out;
    }();
    return all;
}

Result<OpenBatch> demoBatch(const std::string& name, const std::filesystem::path& path) {
    const auto found = std::ranges::find(entries(), name, [](const DemoEntry& entry) { return entry.demo.name; });
    if (found != entries().end()) {
        return found->make(path);
    }
    std::string names;
    for (const Demo& demo : demos()) {
        names += (names.empty() ? "" : &demo == &demos().back() ? " or " : ", ") + demo.name;
    }
    return fail("demo.unknown", "There is no demo called \"" + name + "\".", "Choose " + names + ".");
}

Result<OpenBatch> demoBatch(const std::filesystem::path& path) {
    // 14 September 2026, 10:36 UTC and on: the demo's history is the same each time it is made.
    constexpr std::int64_t now = 1'789'382'160'000;
    DocumentState fresh;
    fresh.batch.info.uid = "a1de7b700c5e0038";
    fresh.batch.info.title = "Patulin in juice, week 38";
    fresh.batch.info.laboratory = "Alderbrook laboratory";
    fresh.batch.method.title = "Patulin kit";
    fresh.batch.method.revision = 4;
    fresh.batch.method.analyte().name = "Patulin";
    fresh.batch.method.analyte().unit = "µg/L";
    fresh.batch.method.analyte().responseName = "Absorbance 450 nm";
    auto import = demoImport("plate-450.csv");
    if (!import) {
        return tl::unexpected(import.error());
    }
    std::vector<Step> steps{
        [&](const Batch& b) { return addReading(b, toReading(*import, now)); },
        [&](const Batch& b) { return assignRole(b, block(0, 6, 0, 1), Role::Standard, 2, Direction::Across); },
        [&](const Batch& b) { return assignRole(b, block(7, 7, 0, 1), Role::Blank, 2, Direction::Across); },
        [&](const Batch& b) { return assignRole(b, block(0, 1, 2, 3), Role::Qc, 2, Direction::Across); },
        [&](const Batch& b) { return assignRole(b, block(2, 7, 2, 3), Role::Unknown, 2, Direction::Across); },
    };
    for (int column = 4; column < 12; column += 2) {
        steps.emplace_back([column](const Batch& b) {
            return assignRole(b, block(0, 7, column, column + 1), Role::Unknown, 2, Direction::Across);
        });
    }
    steps.emplace_back([](const Batch& b) { return setSeries(b, {500, true, 3, 7}); });
    steps.emplace_back([](const Batch& b) { return setQc(b, 1, {"QC lo", 12}); });
    steps.emplace_back([](const Batch& b) { return setQc(b, 2, {"QC hi", 80}); });
    steps.emplace_back([](const Batch& b) { return pasteSampleNames(b, 1, kDemoSamples); });
    steps.emplace_back([when = now + 20'000 * static_cast<std::int64_t>(steps.size())](const Batch& b) {
        return excludePlaces(b, {{2, 1}}, "bubble in well", when);
    });
    return made(std::move(fresh), now, steps, path);
}

} // namespace nuvat
