#include "change_json.h"
#include "items.h"
#include "nuvat/batch/validate.h"

#include <cmath>
#include <unordered_set>

namespace nuvat {

namespace {

void require(bool isTrue, const char* otherwise) {
    if (!isTrue) {
        throw std::runtime_error(otherwise);
    }
}

/// The sentence of an Error without its full stop, to stand in another one.
std::string phrase(const Error& error) {
    std::string text = error.message;
    if (text.ends_with('.')) {
        text.pop_back();
    }
    return text;
}

void require(const Result<void>& valid) {
    if (!valid) {
        throw std::runtime_error(phrase(valid.error()));
    }
}

using Payloads = std::shared_ptr<PayloadSource>;

void readMethod(Database& db, const Payloads& payloads, Method& m) {
    bool isThere = false;
    readRows<WholeBatch, Method>(db, payloads, [&](WholeBatch, Method&& method) {
        m = std::move(method);
        isThere = true;
    });
    require(isThere, "it has no method");
    m.analytes.clear();
    readRows<AnalyteKey, Analyte>(db, payloads, [&m](AnalyteKey key, Analyte&& analyte) {
        require(key.number == std::ssize(m.analytes) + 1, "its analytes are not counted from 1");
        require(m.analytes.size() < kMostAnalytes, "it has more analytes than any method");
        m.analytes.push_back(std::move(analyte));
    });
    readRows<CriterionKey, Criterion>(
        db, payloads, [&m](CriterionKey, Criterion&& criterion) { m.criteria.push_back(std::move(criterion)); });
    require(validate(m));
}

void readReadings(Database& db, const Payloads& payloads, Batch& batch) {
    readRows<int, Reading>(db, payloads,
                           [&](int id, Reading&& reading) { batch.readings.emplace(id, std::move(reading)); });
    readRows<Slot, InUse>(db, payloads, [&](const Slot& slot, InUse use) { batch.inUse[slot] = use.reading; });
    // One pass over the identities: to look one up SQLite reads the data of all that it compares it with.
    std::unordered_set<PayloadId> stored;
    for (Statement s(db, "SELECT id FROM payload"); s.step();) {
        stored.insert(s.text(0));
    }
    for (const auto& [slot, key] : batch.inUse) {
        const auto found = batch.readings.find(key);
        require(found == batch.readings.end() || stored.contains(found->second->payload.id()),
                "values of one of its readings are missing");
    }
    // A plate that counts is evaluated at once anyway, so it is looked at now. Traces are many and long, and what was
    // found in them is remembered: each is held against its identity when it is asked for, like what does not count.
    for (const auto& [slot, key] : batch.inUse) {
        const auto found = batch.readings.find(key);
        if (!slot.place && found != batch.readings.end() && !found->second->payload.isReadable()) {
            throw std::runtime_error("values of the reading " + found->second->source +
                                     " are not those that were imported (their checksum differs)");
        }
    }
}

/// Items by the key that the batch has them under.
template<class Key, class T, class Map> void readInto(Database& db, const Payloads& payloads, Map& map) {
    readRows<Key, T>(db, payloads, [&map](Key&& key, T&& item) {
        if constexpr (requires { key.number; } && !std::same_as<Key, typename Map::key_type>) {
            map[key.number] = std::move(item);
        } else {
            map[std::move(key)] = std::move(item);
        }
    });
}

/// One row of the table of commands.
struct Entry {
    std::int64_t position;
    bool isDone;
    std::optional<Command> command; ///< absent: it cannot be read
};

std::vector<Entry> readEntries(Database& db, const std::shared_ptr<PayloadSource>& payloads) {
    std::vector<Entry> entries;
    Statement s(db, "SELECT position, is_done, label, reason, time_millis, changes FROM command ORDER BY position");
    while (s.step()) {
        Entry entry{s.integer64(0), s.isTrue(1), std::nullopt};
        try {
            Command command{s.text(2), s.text(3), s.integer64(4), changesFromJson(s.text(5), payloads)};
            if (validate(command)) {
                entry.command = std::move(command);
            }
        } catch (const std::exception&) { // JSON, unknown names, wrong types: all the same to undo
        }
        entries.push_back(std::move(entry));
    }
    return entries;
}

bool isInOrder(const std::vector<Entry>& entries) {
    for (std::size_t i = 0; i < entries.size(); ++i) {
        if (entries[i].position != static_cast<std::int64_t>(i) ||
            (i > 0 && entries[i].isDone && !entries[i - 1].isDone)) {
            return false;
        }
    }
    return true;
}

} // namespace

Batch readBatch(Database& db, const std::shared_ptr<PayloadSource>& payloads) {
    Batch batch;
    bool isThere = false;
    readRows<WholeBatch, BatchInfo>(db, payloads, [&](WholeBatch, BatchInfo&& info) {
        batch.info = std::move(info);
        isThere = true;
    });
    require(isThere, "it has no batch");
    batch.carriers.clear();
    readInto<CarrierKey, Carrier>(db, payloads, batch.carriers);
    readInto<Place, Run>(db, payloads, batch.runs);
    readMethod(db, payloads, batch.method);
    readReadings(db, payloads, batch);
    readInto<Place, Assignment>(db, payloads, batch.places);
    readInto<LevelKey, Level>(db, payloads, batch.levels);
    readInto<QcKey, QcSample>(db, payloads, batch.qcs);
    readInto<SampleKey, Sample>(db, payloads, batch.samples);
    readInto<PreparationKey, Preparation>(db, payloads, batch.preparations);
    readInto<ExclusionKey, Exclusion>(db, payloads, batch.exclusions);
    readInto<OverrideKey, Override>(db, payloads, batch.overrides);
    readInto<Slot, HandEdits>(db, payloads, batch.handEdits);
    require(validate(batch));
    return batch;
}

std::vector<HistoryLine> readHistory(Database& db) {
    std::vector<HistoryLine> lines;
    Statement s(db, "SELECT time_millis, kind, label, reason, subject FROM history ORDER BY id");
    while (s.step()) {
        const std::string kind = s.text(1);
        lines.push_back({s.integer64(0),
                         kind == "done"     ? EventKind::Done
                         : kind == "undone" ? EventKind::Undone
                                            : EventKind::Redone,
                         s.text(2), s.text(3), fromKnownName<Subject>(s.text(4))});
    }
    return lines;
}

UndoEntries readUndoEntries(Database& db, const std::shared_ptr<PayloadSource>& payloads) {
    UndoEntries out;
    std::vector<Entry> entries;
    bool isReadable = true;
    try {
        entries = readEntries(db, payloads);
        isReadable = isInOrder(entries);
    } catch (const SqliteError&) {
        throw; // the file, not an entry
    } catch (const std::exception&) {
        isReadable = false;
    }
    if (!isReadable) {
        out.firstPosition = 0;
        out.lost = "Its undo entries cannot be read, so earlier edits cannot be undone; the batch itself is whole.";
        return out;
    }
    // What is done is undone from its end, what is undone is redone from its beginning: an entry that cannot be read
    // is a wall for either.
    std::size_t done = 0;
    while (done < entries.size() && entries[done].isDone) {
        ++done;
    }
    std::size_t first = done;
    while (first > 0 && entries[first - 1].command) {
        --first;
    }
    std::size_t end = done;
    while (end < entries.size() && entries[end].command) {
        ++end;
    }
    for (std::size_t i = first; i < end; ++i) {
        out.commands.push_back(std::move(*entries[i].command));
    }
    out.done = done - first;
    out.firstPosition = static_cast<std::int64_t>(first);
    const std::size_t lost = first + (entries.size() - end);
    if (lost > 0) {
        out.lost = std::to_string(lost) +
                   (lost == 1 ? " undo entry cannot be read or reached" : " undo entries cannot be read or reached") +
                   ", so those edits cannot be undone or redone; the batch itself is whole.";
    }
    return out;
}

} // namespace nuvat
