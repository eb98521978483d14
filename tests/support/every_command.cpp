#include "support/every_command.h"

#include "nuvat/batch/evaluation.h"
#include "support/trace_runs.h"
#include "support/wells.h"

namespace nuvat::test {

namespace {

Result<Command> overrideOfSomething(const Batch& batch, int variant, bool isWithdrawn) {
    const Evaluation evaluation = evaluate(batch);
    if (evaluation.analyte().criteria.empty()) {
        return Command{};
    }
    const CriterionResult& criterion = evaluation.analyte().criteria.front();
    return isWithdrawn ? withdrawOverride(batch, 1, criterion)
                       : overrideCriterion(batch, 1, criterion, "agreed " + std::to_string(variant), 7);
}

Result<Command> secondAnalyte(const Batch& batch) {
    Method method = batch.method;
    if (method.analytes.size() == 1) {
        method.analytes.push_back(method.analytes.front());
        method.analytes.back().name = "Citrinin";
    }
    return setMethod(batch, method);
}

Result<Command> otherModel(const Batch& batch, int variant) {
    Method method = batch.method;
    method.analyte().fit.model = variant % 2 == 0 ? Model::Logistic5 : Model::Logistic4;
    method.confidence = 0.9 + 0.001 * variant;
    method.criteria = {{"own " + std::to_string(variant), CriterionScope::Sample, "cv", Comparison::AtMost, 15, true}};
    return setMethod(batch, method);
}

Result<Command> anotherReading(const Batch& batch, int variant) {
    if (batch.readings.empty()) {
        return Command{};
    }
    Reading reading = *batch.readings.begin()->second;
    reading.source = "again " + std::to_string(variant) + ".csv";
    editGrid(reading, [variant](Grid& grid) {
        for (ReadingWell& well : grid.wells) {
            if (well.value) {
                *well.value *= 1 + 0.001 * variant;
            }
        }
    });
    return addReading(batch, std::move(reading));
}

} // namespace

namespace {

/// A place on the last carrier, a list when there is one.
Place lastPlace(const Batch& batch, int row) {
    return {row, 0, batch.carriers.rbegin()->first};
}

std::vector<KindOfCommand> commandsOnCarriers(int variant) {
    const auto text = [variant](const std::string& word) { return word + " " + std::to_string(variant); };
    return {
        {"anchor", [=](const Batch& b) { return setAnchor(b, 1, variant % 2 == 0); }},
        {"check standard",
         [](const Batch& b) {
             return assignRole(b, {{0, 6}, {0, 7}}, Role::CheckStandard, 2, Direction::Across);
         }},
        {"nominal of the check standard",
         [=](const Batch& b) {
             return setQc(b, 1, {text("check"), 30.0 + variant}, 1, Role::CheckStandard);
         }},
        {"double blank",
         [](const Batch& b) {
             return assignRole(b, {{1, 6}}, Role::DoubleBlank, 1, Direction::Across);
         }},
        {"spike",
         [](const Batch& b) {
             return assignRole(b, {{1, 7}, {1, 8}}, Role::Spike, 1, Direction::Across);
         }},
        {"further dilution",
         [](const Batch& b) {
             return addPreparations(b, {{2, 6}, {2, 7}}, 2, Direction::Across);
         }},
        {"its factor",
         [=](const Batch& b) {
             return setDilution(b, {Role::Unknown, 1, 2}, 20.0 + variant);
         }},
        {"second plate",
         [=](const Batch& b) {
             return addCarrier(b, {CarrierKind::Plate, text("plate"), 8, 12});
         }},
        {"list", [](const Batch& b) { return addRunList(b, 5); }},
        {"name of a run", [=](const Batch& b) { return nameRun(b, lastPlace(b, 0), text("mead")); }},
        {"typed value",
         [=](const Batch& b) {
             return typeValue(b, lastPlace(b, 1), b.info.channel, std::to_string(0.5 + variant), 9);
         }},
        {"name of a carrier",
         [=](const Batch& b) { return renameCarrier(b, b.carriers.rbegin()->first, text("cuvettes")); }},
        {"plate removed", [](const Batch& b) { return removeCarrier(b, std::prev(b.carriers.end(), 2)->first); }},
    };
}

} // namespace

std::vector<KindOfCommand> everyCommand(int variant) {
    std::vector<KindOfCommand> all = commandsOnOnePlate(variant);
    for (KindOfCommand& one : commandsOnCarriers(variant)) {
        all.push_back(std::move(one));
    }
    all.push_back({"runs with traces", [=](const Batch& b) {
                       const auto seed = static_cast<unsigned>(variant) + 1;
                       return importRuns(b, {runOf("run " + std::to_string(variant), 1, 1, seed)}, 1'000 + variant);
                   }});
    all.push_back({"signal", [=](const Batch& b) {
                       SignalRule rule;
                       rule.peaks.leastHeight = {5.0 + variant, true};
                       rule.peaks.ignored = {{0, 10}};
                       rule.peaks.smoothing = Smoothing{9, 2};
                       rule.peaks.baseline.through = {{0, 5}, {20, 30}};
                       StretchRule own;
                       own.stretch = {10, 20};
                       own.leastHeight = HeightLimit{0.5, false};
                       rule.peaks.rules = {own};
                       rule.scanRate = 0.1;
                       return setSignal(b, "detector", rule);
                   }});
    all.push_back(
        {"drawn by hand", [=](const Batch& b) {
             for (const auto& [slot, key] : b.inUse) {
                 if (slot.place) {
                     return drawOn(b, {slot}, {{PeakEditKind::Bounds, 60, 55, 65.0 + variant, 0, 0}, "tail", 5});
                 }
             }
             return Result<Command>(Command{});
         }});
    return all;
}

std::vector<KindOfCommand> commandsOnOnePlate(int variant) {
    const auto text = [variant](const std::string& word) { return word + " " + std::to_string(variant); };
    return {
        {"title", [=](const Batch& b) { return setTitle(b, text("Title")); }},
        {"details",
         [=](const Batch& b) { return setDetails(b, text("Batch"), text("Lab"), text("Note\nof two lines")); }},
        {"second analyte", [](const Batch& b) { return secondAnalyte(b); }},
        {"level", [=](const Batch& b) { return setLevel(b, 2, 160.0 + variant); }},
        {"level of the second", [=](const Batch& b) { return setLevel(b, 3, 7.5 + variant, 2); }},
        {"no level", [](const Batch& b) { return setLevel(b, 3, std::nullopt); }},
        {"pasted levels", [=](const Batch& b) { return pasteLevels(b, 3, std::to_string(55 + variant) + "\n18.5\n"); }},
        {"series",
         [=](const Batch& b) {
             return setSeries(b, {400.0 + variant, true, 3, 7});
         }},
        {"qc",
         [=](const Batch& b) {
             return setQc(b, 1, {text("QC"), 12.5 + variant});
         }},
        {"qc of the second",
         [=](const Batch& b) {
             return setQc(b, 2, {text("QC high"), 70.0 + variant}, 2);
         }},
        {"sample",
         [=](const Batch& b) {
             return setSample(b, 2, {text("sample"), 2.0 + variant, text("note")});
         }},
        {"pasted names",
         [=](const Batch& b) { return pasteSampleNames(b, 1, text("one") + "\t5\n" + text("two") + "\t4\n"); }},
        {"exclusion",
         [=](const Batch& b) {
             return excludePlaces(b, {{2, 2}, {3, 3}}, text("bubble"), 1'000 + variant);
         }},
        {"exclusion of one analyte",
         [=](const Batch& b) {
             return excludePlaces(b, {{2, 0}}, text("rider"), 1'000 + variant, 1);
         }},
        {"override", [=](const Batch& b) { return overrideOfSomething(b, variant, false); }},
        {"reading", [=](const Batch& b) { return anotherReading(b, variant); }},
        {"other reading", [](const Batch& b) { return useReading(b, b.readings.begin()->first); }},
        {"model", [=](const Batch& b) { return otherModel(b, variant); }},
        {"roles",
         [](const Batch& b) {
             return assignRole(b, {{1, 0}, {1, 1}}, Role::Empty, 2, Direction::Across);
         }},
        {"renumbering", [](const Batch& b) { return renumberStandards(b); }},
        {"the rest", [](const Batch& b) { return fillRest(b, Role::Unknown, 2, Direction::Down); }},
        {"restored",
         [](const Batch& b) {
             return restorePlaces(b, {{2, 2}, {3, 3}});
         }},
        {"override withdrawn", [=](const Batch& b) { return overrideOfSomething(b, variant, true); }},
        {"analyte removed", [](const Batch& b) { return removeAnalyte(b, 2); }},
        {"standards again",
         [](const Batch& b) {
             return assignRole(b, {{1, 0}, {1, 1}}, Role::Standard, 2, Direction::Across);
         }},
    };
}

} // namespace nuvat::test
