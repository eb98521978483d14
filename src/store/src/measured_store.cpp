#include "measured_store.h"

#include "nuvat/core/base/checksum.h"
#include "nuvat/core/base/words.h"
#include "rule_json.h"
#include "signal_json.h"

namespace nuvat {

namespace {

/// Visits what is kept of a peak, for writing and reading alike.
template<class P, class Visit> void describePeak(P& peak, const Visit& visit) {
    visit(peak.apex, peak.apexY, peak.height, peak.isNegative, peak.area, peak.areaAbove, peak.areaBelow,
          peak.crossings, peak.apexSignal, peak.apexSignalY, peak.xSample, peak.heightSample, peak.start, peak.end,
          peak.startY, peak.endY, peak.bend, peak.left5, peak.right5, peak.left10, peak.right10, peak.left50,
          peak.right50, peak.width5, peak.width10, peak.width50, peak.widthBase, peak.asymmetry10, peak.tailing5,
          peak.platesHalf, peak.platesBase, peak.retentionFactor, peak.resolutionHalf, peak.resolutionBase,
          peak.peakToValley, peak.areaPercent, peak.heightPercent);
}

template<class N, class Visit> void describeNoise(N& noise, const Visit& visit) {
    visit(noise.sigma, noise.fine, noise.digitStep, noise.isFromCubics);
}

std::string measuredBytes(const MeasuredTrace& trace) {
    WordWriter out;
    const auto write = [&out](const auto&... values) { (out.add(values), ...); };
    write(trace.xUnit, trace.yUnit, trace.chargeFactor, trace.problem);
    describeNoise(trace.features.noise, write);
    out.addWord(trace.features.peaks.size());
    for (const Peak& peak : trace.features.peaks) {
        describePeak(peak, write);
        out.addWord(static_cast<std::uint64_t>(peak.split));
        out.addWord(static_cast<std::uint64_t>(peak.cluster));
        out.addWord(peak.remarks.size());
        for (const PeakRemark remark : peak.remarks) {
            out.addWord(static_cast<std::uint64_t>(remark));
        }
    }
    out.addWord(trace.features.warnings.size());
    for (const std::string& warning : trace.features.warnings) {
        out.add(warning);
    }
    out.addWord(trace.features.unheld.size());
    for (const std::size_t index : trace.features.unheld) {
        out.addWord(index);
    }
    for (const BandValue& band : trace.bands) {
        write(band.value, band.why);
    }
    return std::move(out).bytes();
}

/// @throws std::runtime_error where the bytes are others
template<class E> E enumerator(std::uint64_t value, E last) {
    if (value > static_cast<std::uint64_t>(last)) {
        throw std::runtime_error("it names what there is not");
    }
    return static_cast<E>(value);
}

/// The same as measuredBytes wrote. @throws std::runtime_error where the bytes are others
MeasuredTrace measuredFrom(std::string_view bytes, const PayloadId& payload, const TraceRules& rules) {
    MeasuredTrace out{payload, rules, {}, {}, {}, {}, {}, {}};
    WordReader words(bytes);
    const auto read = [&words](auto&... values) { (words.read(values), ...); };
    read(out.xUnit, out.yUnit, out.chargeFactor, out.problem);
    describeNoise(out.features.noise, read);
    out.features.peaks.resize(words.count());
    for (Peak& peak : out.features.peaks) {
        describePeak(peak, read);
        peak.split = enumerator(words.word(), PeakSplit::Skim);
        peak.cluster = static_cast<int>(words.word());
        peak.remarks.resize(words.count());
        for (PeakRemark& remark : peak.remarks) {
            remark = enumerator(words.word(), PeakRemark::NoApex);
        }
    }
    out.features.warnings.resize(words.count());
    for (std::string& warning : out.features.warnings) {
        words.read(warning);
    }
    out.features.unheld.resize(words.count());
    for (std::size_t& index : out.features.unheld) {
        index = words.word();
        if (index >= rules.edits.size()) {
            throw std::runtime_error("it speaks of what was not drawn");
        }
    }
    out.bands.resize(out.problem.empty() ? rules.bands.size() : 0);
    for (BandValue& band : out.bands) {
        read(band.value, band.why);
    }
    words.requireEnd();
    return out;
}

std::string keyOf(const PayloadId& payload, const TraceRules& rules) {
    std::string text = measuringVersion() + '\n' + payload + '\n' + jsonText({{std::string(), rules.signal}}) + '\n';
    std::vector<HandEdit> edits;
    for (const PeakEdit& edit : rules.edits) {
        edits.push_back({edit, {}});
    }
    text += jsonText(edits);
    for (const BandRule& band : rules.bands) {
        text += '\n' + ruleText(band);
    }
    return sha256(text);
}

/// The slot of a row that begins with carrier, row, column, channel.
Slot slotOf(const Statement& s) {
    const Place place{s.integer(1), s.integer(2), s.integer(0)};
    return {place.carrier, place, s.text(3)};
}

MeasuredTraces readRows(Database& db, const Batch& batch) {
    MeasuredTraces out;
    Statement s(db, "SELECT carrier, row, column, channel, key, data FROM measured");
    while (s.step()) {
        const Slot slot = slotOf(s);
        const Reading* reading = batch.reading(slot);
        const TraceRules rules = reading ? traceRules(batch, slot) : TraceRules{};
        if (!reading || s.text(4) != keyOf(reading->payload.id(), rules)) {
            continue;
        }
        try {
            out[slot] = std::make_shared<const MeasuredTrace>(measuredFrom(s.blob(5), reading->payload.id(), rules));
        } catch (const std::exception&) { // damaged: it is measured anew, as if it had never been remembered
            continue;
        }
    }
    return out;
}

} // namespace

MeasuredTraces readMeasured(Database& db, const Batch& batch) {
    try {
        return readRows(db, batch);
    } catch (const std::exception&) { // a file that cannot say is measured anew
        return {};
    }
}

bool storeMeasured(Database& db, const Batch& batch, const MeasuredTraces& traces) {
    std::map<Slot, std::string> known;
    Statement all(db, "SELECT carrier, row, column, channel, key FROM measured");
    while (all.step()) {
        known[slotOf(all)] = all.text(4);
    }
    bool isWritten = false;
    Statement put(db, "INSERT OR REPLACE INTO measured VALUES (?, ?, ?, ?, ?, ?)");
    for (const auto& [slot, trace] : traces) {
        const Reading* reading = batch.reading(slot);
        const TraceRules rules = traceRules(batch, slot);
        if (!reading || !trace->problem.empty() || !trace->holdsFor(reading->payload.id(), rules)) {
            continue; // of an earlier revision, or worth another look
        }
        std::string key = keyOf(trace->payload, rules);
        const auto before = known.extract(slot);
        if (!before.empty() && before.mapped() == key) {
            continue;
        }
        isWritten = true;
        const std::string bytes = measuredBytes(*trace);
        put.bind(slot.carrier, slot.place->row, slot.place->column, slot.channel, key, Blob{bytes}).run();
    }
    Statement drop(db, "DELETE FROM measured WHERE carrier = ? AND row = ? AND column = ? AND channel = ?");
    for (const auto& [slot, key] : known) {
        isWritten = true;
        drop.bind(slot.carrier, slot.place->row, slot.place->column, slot.channel).run();
    }
    return isWritten;
}

} // namespace nuvat
