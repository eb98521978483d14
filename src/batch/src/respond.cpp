// From readings to responses: the rule of the analyte, place by place.
#include "nuvat/batch/kinetics.h"
#include "nuvat/batch/value_formula.h"
#include "respond_traces.h"

#include <cmath>

namespace nuvat {

namespace {

/// What a rule reads on one carrier: a grid a channel, nullptr where there is none.
using Grids = std::vector<const Grid*>;

std::string channelTitle(const std::string& channel) {
    return channel.empty() ? "the reading" : channel;
}

/// Grids of the channels on a carrier; says so where something is there that cannot be used.
Grids gridsOf(const Batch& batch, const Measured& measured, int number, const std::vector<std::string>& channels,
              std::vector<Problem>& problems) {
    const Carrier& carrier = batch.carriers.at(number);
    Grids out;
    for (const std::string& channel : channels) {
        const Reading* reading = batch.reading(number, channel);
        const Grid* grid = reading == nullptr ? nullptr : measured.grid(*reading);
        if (reading != nullptr && grid == nullptr) {
            problems.push_back({"The values of " + reading->source +
                                    " cannot be read from the batch file; nothing is read from it. Import the file "
                                    "again, or take a copy of the batch from a backup.",
                                {}});
        } else if (grid != nullptr && (grid->rows != carrier.rows || grid->columns != carrier.columns)) {
            problems.push_back({reading->source + " is a plate of " + std::to_string(grid->rows) + " × " +
                                    std::to_string(grid->columns) + " wells, but the layout is for " +
                                    std::to_string(carrier.rows) + " × " + std::to_string(carrier.columns) +
                                    "; nothing is read from it. Choose another reading under Data.",
                                {}});
            grid = nullptr;
        }
        out.push_back(grid);
    }
    return out;
}

/// A channel that a formula needs and a carrier lacks, where another is there.
void sayWhatIsMissing(const Batch& batch, int number, const std::vector<std::string>& channels, const Grids& grids,
                      std::vector<Problem>& problems) {
    const bool anyRead = std::any_of(grids.begin(), grids.end(), [](const Grid* grid) { return grid != nullptr; });
    for (std::size_t i = 0; anyRead && i < grids.size(); ++i) {
        if (grids[i] == nullptr && batch.reading(number, channels[i]) == nullptr) {
            problems.push_back({carrierName(batch.carriers, number) + " has no reading of " +
                                    channelTitle(channels[i]) +
                                    ", which the formula of the response needs; import it under Data.",
                                {}});
        }
    }
}

/// What was read at a place: numbers of all channels, or the text that stands there instead of one.
struct Read {
    std::vector<double> values;
    std::string text; ///< that is no number
    bool isWhole = true;
};

Read readAt(const Grids& grids, Place place) {
    Read out;
    out.isWhole = !grids.empty();
    for (const Grid* grid : grids) {
        const ReadingWell* well = grid == nullptr ? nullptr : grid->at(place.row, place.column);
        if (well != nullptr && well->value) {
            out.values.push_back(*well->value);
            continue;
        }
        out.isWhole = false;
        if (well != nullptr && out.text.empty()) {
            out.text = well->text;
        }
    }
    return out;
}

/// How the response of a place is made of what was read there.
struct Maker {
    std::optional<ValueFormula> formula;
    std::optional<KineticRule> kinetic;
    TimedChannel timed;
};

/// The number of a place, or why there is none.
void takeRaw(const Maker& maker, const Grids& grids, Place place, const Read& read, Response& value) {
    if (maker.kinetic) {
        const auto taken = responseOf(*maker.kinetic, wellTrace(maker.timed, grids, place));
        const bool isAnyRead = taken || !read.values.empty() || !read.text.empty();
        value.raw = taken ? std::optional(*taken) : std::nullopt;
        value.why = taken || !isAnyRead ? "" : !read.text.empty() ? read.text : taken.error().message;
        return;
    }
    if (read.isWhole) {
        const double raw = maker.formula ? maker.formula->value(read.values) : read.values.front();
        if (std::isfinite(raw)) {
            value.raw = raw;
        } else {
            value.why = kFormulaWithoutNumber;
        }
    }
}

Response placeValue(const Batch& batch, int analyte, Place place, const Grids& grids, const Maker& maker) {
    const Read read = readAt(grids, place);
    Response value;
    const bool isAssigned = batch.at(place).role != Role::Empty;
    value.state = isAssigned ? ResponseState::NotRead : ResponseState::Empty;
    value.why = read.text;
    takeRaw(maker, grids, place, read, value);
    if (!isAssigned) {
        return value;
    }
    if (batch.isExcluded(place, analyte) && (value.raw || read.isWhole || !read.text.empty())) {
        value.state = ResponseState::Excluded;
    } else if (value.raw) {
        value.state = ResponseState::Used;
    } else if (!value.why.empty()) {
        value.state = ResponseState::Unusable;
    }
    return value;
}

} // namespace

void respond(const Batch& batch, const Measured& measured, AnalyteEvaluation& evaluation) {
    respondBy(batch, measured, analyteOf(batch, evaluation).source.rule, evaluation);
}

void respondBy(const Batch& batch, const Measured& measured, const ResponseRule& rule, AnalyteEvaluation& evaluation) {
    const Analyte& analyte = analyteOf(batch, evaluation);
    const std::string& wanted = valueFormula(rule);
    std::vector<std::string> channels{batch.info.channel};
    Maker maker;
    if (respondFromTraces(batch, measured, rule, evaluation)) {
        return;
    }
    if (const auto* kinetic = std::get_if<KineticRule>(&rule)) {
        channels = batch.channelsOf(evaluation.analyte);
        maker.kinetic = *kinetic;
        const auto all = timedChannels(batch);
        const TimedChannel* timed = timedChannel(all, kinetic->channel);
        maker.timed = timed == nullptr ? TimedChannel{} : *timed;
        if (timed == nullptr) {
            evaluation.problems.push_back({"The response of " + analyte.name + " is what " +
                                               (kinetic->channel.empty() ? "the wells" : kinetic->channel) +
                                               " showed over time, and this batch has no three reads whose names are "
                                               "times (\"60 s\"); import them under Data.",
                                           {}});
        }
    } else if (!std::holds_alternative<ValueRule>(rule)) {
        channels.clear();
        evaluation.problems.push_back({"The response of " + analyte.name + " is the " + std::string(kindName(rule)) +
                                           " of a reading of another kind, and this batch has none of it; choose "
                                           "under Curve what it is read from.",
                                       {}});
    } else if (!wanted.empty()) {
        auto parsed = ValueFormula::parse(wanted, batch.channels());
        if (parsed && !parsed->channels().empty()) {
            channels = parsed->channels();
            maker.formula = std::move(*parsed);
        } else {
            channels.clear();
            evaluation.problems.push_back(
                {"The response of " + analyte.name + " is the formula \"" + wanted + "\". " +
                     (parsed ? "It names no channel of this batch."
                             : parsed.error().text() + " A channel has to be in this batch: import its reading under "
                                                       "Data, or change the formula."),
                 {}});
        }
    }
    evaluation.responses.reserve(evaluation.index->size());
    for (const auto& [number, carrier] : batch.carriers) {
        const Grids grids = gridsOf(batch, measured, number, channels, evaluation.problems);
        if (!maker.kinetic) { // a well may lack a read here and there
            sayWhatIsMissing(batch, number, channels, grids, evaluation.problems);
        }
        for (int row = 0; row < carrier.rows; ++row) {
            for (int column = 0; column < carrier.columns; ++column) {
                const Place place{row, column, number};
                evaluation.responses.push_back(placeValue(batch, evaluation.analyte, place, grids, maker));
            }
        }
    }
}

} // namespace nuvat
