#include "nuvat/store/batch_file.h"

#include "change_json.h"
#include "migrations.h"
#include "sqlite.h"

#include <array>
#include <cmath>
#include <fstream>

namespace nuvat {

namespace {

constexpr int kApplicationId = 0x4E555654; // "NUVT"

std::string kindName(EventKind kind) {
    return kind == EventKind::Done ? "done" : kind == EventKind::Undone ? "undone" : "redone";
}

// One function for each kind of item: write it, or delete it when absent.

void store(Database& db, WholeBatch, const std::optional<BatchInfo>& v) {
    const BatchInfo info = v.value_or(BatchInfo{});
    Statement(db, "INSERT OR REPLACE INTO batch VALUES (1, ?, ?, ?, ?, ?, ?, ?)")
        .bind(info.uid, info.title, info.laboratory, info.readingInUse, info.rows, info.columns, info.note)
        .run();
}

void storeAnalyte(Database& db, int number, const Analyte& a) {
    Statement(db, "INSERT INTO analyte VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)")
        .bind(number, a.name, a.unit, a.responseName, a.reading, name(a.fit.model), name(a.fit.weighting),
              name(a.fit.weightFrom), name(a.fit.fitTo), a.fit.heldA, a.fit.heldD, a.fit.fixedX, a.fit.fixedY,
              a.fit.isSplineInLogX, name(a.interval), name(a.average), name(a.range.by), a.range.precisionPercent,
              a.range.lloq, a.range.uloq, a.range.extrapolation, a.isConcentrationLogarithmic)
        .run();
}

void store(Database& db, WholeBatch, const std::optional<Method>& v) {
    const Method m = v.value_or(Method{});
    const CriteriaLimits& l = m.limits;
    Statement(db,
              "INSERT OR REPLACE INTO method VALUES (1, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, "
              "?, ?, ?, ?)")
        .bind(m.title, m.revision, m.subtractsBlank, m.blankEntersInterval, m.dilutionRelativeSe, m.confidence,
              m.replicates.keepBest, name(m.replicates.outlierTest), m.replicates.alpha, m.criteriaName,
              l.backCalculated, l.backCalculatedAtLowest, l.backCalculatedAtHighest, l.levelsWithin, l.levelsAtLeast,
              l.standardCv, l.unknownCv, l.qcRecovery, l.rSquared, l.r, l.qcWithin, l.qcWithinAtLevel,
              l.isBlankBelowLloq, joinedNames(m.reportBlocks))
        .run();
    db.execute("DELETE FROM analyte; DELETE FROM criterion;");
    for (std::size_t i = 0; i < m.analytes.size(); ++i) {
        storeAnalyte(db, static_cast<int>(i) + 1, m.analytes[i]);
    }
    for (std::size_t i = 0; i < m.criteria.size(); ++i) {
        const Criterion& c = m.criteria[i];
        Statement(db, "INSERT INTO criterion VALUES (?, ?, ?, ?, ?, ?, ?)")
            .bind(static_cast<int>(i), c.title, name(c.scope), c.quantity, name(c.comparison), c.limit, c.asksForReview)
            .run();
    }
}

void store(Database& db, int key, const std::optional<Reading>& v) {
    Statement(db, "DELETE FROM reading WHERE id = ?").bind(key).run();
    if (!v) {
        return;
    }
    Statement(db, "INSERT INTO reading VALUES (?, ?, ?, ?, ?, ?, ?, ?)")
        .bind(key, v->source, v->checksum, v->understood, v->readName, v->takenInMillis, v->rows, v->columns)
        .run();
    Statement insert(db, "INSERT INTO reading_well VALUES (?, ?, ?, ?, ?, ?, ?)");
    for (int row = 0; row < v->rows; ++row) {
        for (int column = 0; column < v->columns; ++column) {
            const ReadingWell& well = v->wells[static_cast<std::size_t>(row * v->columns + column)];
            insert.bind(key, row, column, well.value, well.text, well.line, well.column).run();
        }
    }
}

void store(Database& db, Place key, const std::optional<Assignment>& v) {
    if (v) {
        Statement(db, "INSERT OR REPLACE INTO place VALUES (?, ?, ?, ?)")
            .bind(key.row, key.column, name(v->role), v->number)
            .run();
    } else {
        Statement(db, "DELETE FROM place WHERE row = ? AND column = ?").bind(key.row, key.column).run();
    }
}

void store(Database& db, Place key, const std::optional<Exclusion>& v) {
    if (v) {
        Statement(db, "INSERT OR REPLACE INTO exclusion VALUES (?, ?, ?, ?)")
            .bind(key.row, key.column, v->reason, v->timeMillis)
            .run();
    } else {
        Statement(db, "DELETE FROM exclusion WHERE row = ? AND column = ?").bind(key.row, key.column).run();
    }
}

void store(Database& db, LevelKey key, const std::optional<Level>& v) {
    if (v) {
        Statement(db, "INSERT OR REPLACE INTO level VALUES (?, ?, ?)")
            .bind(key.number, key.analyte, v->concentration)
            .run();
    } else {
        Statement(db, "DELETE FROM level WHERE number = ? AND analyte = ?").bind(key.number, key.analyte).run();
    }
}

void store(Database& db, QcKey key, const std::optional<QcSample>& v) {
    if (v) {
        Statement(db, "INSERT OR REPLACE INTO qc VALUES (?, ?, ?, ?)")
            .bind(key.number, key.analyte, v->name, v->nominal)
            .run();
    } else {
        Statement(db, "DELETE FROM qc WHERE number = ? AND analyte = ?").bind(key.number, key.analyte).run();
    }
}

void store(Database& db, SampleKey key, const std::optional<Sample>& v) {
    if (v) {
        Statement(db, "INSERT OR REPLACE INTO sample VALUES (?, ?, ?, ?)")
            .bind(key.number, v->name, v->dilution, v->note)
            .run();
    } else {
        Statement(db, "DELETE FROM sample WHERE number = ?").bind(key.number).run();
    }
}

void store(Database& db, const OverrideKey& key, const std::optional<Override>& v) {
    if (v) {
        Statement(db, "INSERT OR REPLACE INTO criterion_override VALUES (?, ?, ?, ?)")
            .bind(key.analyte, key.criterion, v->reason, v->timeMillis)
            .run();
    } else {
        Statement(db, "DELETE FROM criterion_override WHERE analyte = ? AND criterion = ?")
            .bind(key.analyte, key.criterion)
            .run();
    }
}

template<class Key, class T, class Map> void storeAll(Database& db, const Map& map) {
    for (const auto& [key, value] : map) {
        store(db, Key{key}, std::optional<T>(value));
    }
}

void storeCommand(Database& db, const Command& command, std::size_t position, bool isDone) {
    Statement(db, "INSERT OR REPLACE INTO command VALUES (?, ?, ?, ?, ?, ?)")
        .bind(static_cast<std::int64_t>(position), isDone, command.label, command.reason, command.timeMillis,
              changesToJson(command.changes))
        .run();
}

void storeLine(Database& db, const HistoryLine& line) {
    Statement(db, "INSERT INTO history (time_millis, kind, label, reason) VALUES (?, ?, ?, ?)")
        .bind(line.timeMillis, kindName(line.kind), line.label, line.reason)
        .run();
}

void storeState(Database& db, const DocumentState& state) {
    const Batch& batch = state.batch;
    store(db, WholeBatch{}, std::optional(batch.info));
    store(db, WholeBatch{}, std::optional(batch.method));
    storeAll<int, Reading>(db, batch.readings);
    storeAll<Place, Assignment>(db, batch.places);
    storeAll<LevelKey, Level>(db, batch.levels);
    storeAll<QcKey, QcSample>(db, batch.qcs);
    storeAll<SampleKey, Sample>(db, batch.samples);
    storeAll<Place, Exclusion>(db, batch.exclusions);
    storeAll<OverrideKey, Override>(db, batch.overrides);
    for (std::size_t i = 0; i < state.commands.size(); ++i) {
        storeCommand(db, state.commands[i], i, i < state.done);
    }
    for (const HistoryLine& line : state.history) {
        storeLine(db, line);
    }
}

template<class Enum> Enum known(std::optional<Enum> value) {
    if (!value) {
        throw std::runtime_error("a name in it is unknown");
    }
    return *value;
}

/// What commands never write must not come in by a file either: evaluate() relies on it.
void demand(bool isTrue, const char* otherwise) {
    if (!isTrue) {
        throw std::runtime_error(otherwise);
    }
}

Analyte readAnalyte(const Statement& s) {
    Analyte a;
    a.name = s.text(1);
    a.unit = s.text(2);
    a.responseName = s.text(3);
    a.reading = s.integer(4);
    a.fit.model = known(modelFromName(s.text(5)));
    a.fit.weighting = known(weightingFromName(s.text(6)));
    a.fit.weightFrom = known(weightFromFromName(s.text(7)));
    a.fit.fitTo = known(fitToFromName(s.text(8)));
    a.fit.heldA = s.optionalNumber(9);
    a.fit.heldD = s.optionalNumber(10);
    a.fit.fixedX = s.number(11);
    a.fit.fixedY = s.number(12);
    a.fit.isSplineInLogX = s.integer(13) != 0;
    a.interval = known(intervalMethodFromName(s.text(14)));
    a.average = known(averageOfFromName(s.text(15)));
    a.range = {known(rangeByFromName(s.text(16))), s.number(17), s.optionalNumber(18), s.optionalNumber(19),
               s.number(20)};
    a.isConcentrationLogarithmic = s.integer(21) != 0;
    for (const double v :
         {a.fit.heldA.value_or(0), a.fit.heldD.value_or(0), a.fit.fixedX, a.fit.fixedY, a.range.precisionPercent,
          a.range.lloq.value_or(0), a.range.uloq.value_or(0), a.range.extrapolation}) {
        demand(std::isfinite(v), "a setting of an analyte is not a finite number");
    }
    demand(a.range.precisionPercent > 0, "a precision is not above 0");
    return a;
}

void readMethod(Database& db, Method& m) {
    Statement s(db, "SELECT * FROM method");
    if (!s.step()) {
        throw std::runtime_error("it has no method");
    }
    m.title = s.text(1);
    m.revision = s.integer(2);
    m.subtractsBlank = s.integer(3) != 0;
    m.blankEntersInterval = s.integer(4) != 0;
    m.dilutionRelativeSe = s.number(5);
    m.confidence = s.number(6);
    m.replicates = {s.integer(7), known(outlierTestFromName(s.text(8))), s.number(9)};
    m.criteriaName = s.text(10);
    m.limits = {s.optionalNumber(11), s.number(12),         s.number(13),         s.number(14),
                s.integer(15),        s.optionalNumber(16), s.optionalNumber(17), s.optionalNumber(18),
                s.optionalNumber(19), s.optionalNumber(20), s.optionalNumber(21), s.number(22),
                s.integer(23) != 0};
    m.reportBlocks = splitNames(s.text(24));
    demand(m.confidence > 0 && m.confidence < 1, "its confidence is not between 0 and 1");
    demand(m.replicates.alpha > 0 && m.replicates.alpha < 1,
           "the significance of its outlier test is not between 0 and 1");
    demand(m.dilutionRelativeSe >= 0 && std::isfinite(m.dilutionRelativeSe), "its dilution uncertainty is below 0");
    m.analytes.clear();
    Statement a(db, "SELECT * FROM analyte ORDER BY number");
    while (a.step()) {
        demand(a.integer(0) == std::ssize(m.analytes) + 1, "its analytes are not counted from 1");
        m.analytes.push_back(readAnalyte(a));
    }
    demand(!m.analytes.empty(), "it has no analyte");
    Statement c(db, "SELECT title, scope, quantity, comparison, limit_value, asks_for_review FROM criterion "
                    "ORDER BY position");
    while (c.step()) {
        m.criteria.push_back({c.text(0), known(criterionScopeFromName(c.text(1))), c.text(2),
                              known(comparisonFromName(c.text(3))), c.number(4), c.integer(5) != 0});
    }
}

void readReadings(Database& db, Batch& batch) {
    Statement s(db, "SELECT id, source, checksum, understood, read_name, taken_in_millis, rows, columns FROM reading");
    while (s.step()) {
        Reading reading{s.text(1), s.text(2), s.text(3), s.text(4), s.integer64(5), s.integer(6), s.integer(7), {}};
        reading.wells.resize(static_cast<std::size_t>(reading.rows * reading.columns));
        Statement w(db,
                    "SELECT row, column, value, text, source_line, source_cell FROM reading_well WHERE reading_id = ?");
        w.bind(s.integer(0));
        while (w.step()) {
            const int row = w.integer(0);
            const int column = w.integer(1);
            demand(row >= 0 && row < reading.rows && column >= 0 && column < reading.columns,
                   "a well lies outside its plate");
            demand(std::isfinite(w.optionalNumber(2).value_or(0)), "a reading is not a finite number");
            reading.wells[static_cast<std::size_t>(row * reading.columns + column)] = {w.optionalNumber(2), w.text(3),
                                                                                       w.integer(4), w.integer(5)};
        }
        batch.readings.emplace(s.integer(0), std::move(reading));
    }
}

Batch readBatch(Database& db) {
    Batch batch;
    Statement info(db, "SELECT uid, title, laboratory, reading_in_use, rows, columns, note FROM batch");
    if (!info.step()) {
        throw std::runtime_error("it has no batch");
    }
    batch.info = {info.text(0),    info.text(1),    info.text(2), info.integer(3),
                  info.integer(4), info.integer(5), info.text(6)};
    readMethod(db, batch.method);
    readReadings(db, batch);
    Statement place(db, "SELECT row, column, role, number FROM place");
    while (place.step()) {
        const Place key{place.integer(0), place.integer(1)};
        demand(batch.holds(key), "a place lies outside the plate");
        batch.places[key] = {known(roleFromName(place.text(2))), place.integer(3)};
    }
    Statement level(db, "SELECT number, analyte, concentration FROM level");
    while (level.step()) {
        const double concentration = level.optionalNumber(2).value_or(0);
        demand(concentration >= 0 && std::isfinite(concentration), "a concentration is not a number of 0 or more");
        batch.levels[{level.integer(0), level.integer(1)}] = {level.optionalNumber(2)};
    }
    Statement qc(db, "SELECT number, analyte, name, nominal FROM qc");
    while (qc.step()) {
        const double nominal = qc.optionalNumber(3).value_or(1);
        demand(nominal > 0 && std::isfinite(nominal), "a nominal concentration is not a number above 0");
        batch.qcs[{qc.integer(0), qc.integer(1)}] = {qc.text(2), qc.optionalNumber(3)};
    }
    Statement sample(db, "SELECT number, name, dilution, note FROM sample");
    while (sample.step()) {
        demand(sample.number(2) > 0 && std::isfinite(sample.number(2)), "a dilution factor is not a number above 0");
        batch.samples[sample.integer(0)] = {sample.text(1), sample.number(2), sample.text(3)};
    }
    Statement exclusion(db, "SELECT row, column, reason, time_millis FROM exclusion");
    while (exclusion.step()) {
        demand(batch.holds({exclusion.integer(0), exclusion.integer(1)}), "an exclusion lies outside the plate");
        batch.exclusions[{exclusion.integer(0), exclusion.integer(1)}] = {exclusion.text(2), exclusion.integer64(3)};
    }
    Statement decision(db, "SELECT analyte, criterion, reason, time_millis FROM criterion_override");
    while (decision.step()) {
        batch.overrides[{decision.integer(0), decision.text(1)}] = {decision.text(2), decision.integer64(3)};
    }
    return batch;
}

DocumentState readState(Database& db) {
    DocumentState state;
    state.batch = readBatch(db);
    Statement command(db, "SELECT is_done, label, reason, time_millis, changes FROM command ORDER BY position");
    while (command.step()) {
        state.done += command.integer(0) != 0 ? 1u : 0u;
        state.commands.push_back(
            {command.text(1), command.text(2), command.integer64(3), changesFromJson(command.text(4))});
    }
    Statement history(db, "SELECT time_millis, kind, label, reason FROM history ORDER BY id");
    while (history.step()) {
        const std::string kind = history.text(1);
        state.history.push_back({history.integer64(0),
                                 kind == "done"     ? EventKind::Done
                                 : kind == "undone" ? EventKind::Undone
                                                    : EventKind::Redone,
                                 history.text(2), history.text(3)});
    }
    return state;
}

void configure(Database& db) {
    // A rollback journal: one file, no sidecars left behind, works on network drives. FULL: a power cut loses nothing.
    db.execute("PRAGMA journal_mode = DELETE; PRAGMA synchronous = FULL; PRAGMA foreign_keys = ON;");
}

/// Brings a file of an older version to the present one, or leaves it as it is.
void migrate(Database& db, int version) {
    if (version == BatchFile::kSchemaVersion) {
        return;
    }
    Transaction transaction(db);
    db.execute(kMigration2);
    db.execute("PRAGMA user_version = " + std::to_string(BatchFile::kSchemaVersion));
    transaction.commit();
}

tl::unexpected<Error> cannotWrite(const std::filesystem::path& path, const std::string& why) {
    return fail("store.cannot-write",
                path.string() + " cannot be written (" + why + "); the batch is as it was before.",
                "Check that the disk has room and that you may write there, or save it under another name.");
}

} // namespace

struct BatchFile::Connection {
    std::filesystem::path path;
    Database database;
};

BatchFile::BatchFile(std::unique_ptr<Connection> connection) : m_connection(std::move(connection)) {}
BatchFile::~BatchFile() = default;
const std::filesystem::path& BatchFile::path() const {
    return m_connection->path;
}

Result<void> BatchFile::write(const std::filesystem::path& path, const DocumentState& state) {
    std::filesystem::path beside = path;
    beside += ".part";
    std::error_code ignored;
    std::filesystem::remove(beside, ignored);
    try {
        {
            Database db(beside, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE);
            configure(db);
            Transaction transaction(db);
            db.execute("PRAGMA application_id = " + std::to_string(kApplicationId));
            db.execute("PRAGMA user_version = " + std::to_string(kSchemaVersion));
            db.execute(kMigration1);
            db.execute(kMigration2);
            storeState(db, state);
            transaction.commit();
        }
        std::filesystem::rename(beside, path);
    } catch (const std::exception& e) {
        std::filesystem::remove(beside, ignored);
        return cannotWrite(path, e.what());
    }
    return {};
}

Result<BatchFile::Opened> BatchFile::open(const std::filesystem::path& path) {
    const std::string text = path.string();
    std::array<char, 16> magic{};
    {
        std::ifstream stream(path, std::ios::binary);
        if (!stream) {
            return fail("store.not-found", text + " cannot be opened: there is no such file, or you may not read it.",
                        "Choose another file.");
        }
        stream.read(magic.data(), magic.size());
    }
    if (std::string_view(magic.data(), magic.size()) != std::string_view("SQLite format 3\0", 16)) {
        return fail("store.not-a-batch", text + " is not a Nuvat batch: it does not begin as one.",
                    "Choose a file that ends in .nuvat; a reading (CSV, TSV) is imported under Data.");
    }
    try {
        std::unique_ptr<Connection> connection(new Connection{path, {path, SQLITE_OPEN_READWRITE}});
        Database& db = connection->database;
        if (db.pragma("application_id") != kApplicationId) {
            return fail("store.not-a-batch", text + " is an SQLite file, but not a Nuvat batch.",
                        "Choose a file that ends in .nuvat.");
        }
        const int version = db.pragma("user_version");
        if (version > kSchemaVersion) {
            return fail("store.newer-version",
                        text + " was written by a newer Nuvat (schema " + std::to_string(version) +
                            "; this one reads up to " + std::to_string(kSchemaVersion) + ").",
                        "Open it with that version; the file was left as it is.");
        }
        if (version < 1) {
            return fail("store.damaged",
                        text + " has schema version " + std::to_string(version) + ", which no Nuvat has written.",
                        "Take a copy of the file from a backup.");
        }
        configure(db);
        migrate(db, version);
        DocumentState state = readState(db);
        return Opened{std::unique_ptr<BatchFile>(new BatchFile(std::move(connection))), std::move(state)};
    } catch (const SqliteError& e) {
        if (e.code == SQLITE_BUSY || e.code == SQLITE_LOCKED) {
            return fail("store.cannot-read", text + " is in use by another program.",
                        "Close it there and open it again.");
        }
        return fail("store.damaged", text + " is damaged and cannot be read (" + std::string(e.what()) + ").",
                    "Take a copy of the file from a backup.");
    } catch (const std::exception& e) {
        return fail("store.damaged", text + " is damaged: " + std::string(e.what()) + ".",
                    "Take a copy of the file from a backup.");
    }
}

Result<void> BatchFile::record(const Batch&, const Command& command, std::size_t index, const HistoryLine& line) {
    Database& db = m_connection->database;
    try {
        Transaction transaction(db);
        const bool isUndo = line.kind == EventKind::Undone;
        for (const Change& change : command.changes) {
            std::visit([&](const auto& item) { store(db, item.key, isUndo ? item.before : item.after); }, change);
        }
        if (line.kind == EventKind::Done) {
            Statement(db, "DELETE FROM command WHERE position >= ?").bind(static_cast<std::int64_t>(index)).run();
            storeCommand(db, command, index, true);
        } else {
            Statement(db, "UPDATE command SET is_done = ? WHERE position = ?")
                .bind(!isUndo, static_cast<std::int64_t>(index))
                .run();
        }
        storeLine(db, line);
        transaction.commit();
    } catch (const std::exception& e) {
        return cannotWrite(m_connection->path, e.what());
    }
    return {};
}

} // namespace nuvat
