#include "migrate.h"

#include "migrations.h"
#include "nuvat/core/base/replacement_file.h"
#include "nuvat/store/batch_file.h"
#include "seal.h"
#include "upgrade_commands.h"

namespace nuvat {

void migrate(Database& db, int version) {
    if (version == BatchFile::kSchemaVersion) {
        return;
    }
    constexpr int kWithCarriers = 5; // the first versions that have them
    constexpr int kWithPayloads = 6;
    constexpr int kWithNamedFields = 7;
    constexpr int kWithSignals = 8;
    constexpr int kWithAdditionStandard = 9;
    constexpr int kWithDecisions = 10;
    constexpr int kWithFigures = 11;
    constexpr int kWithInternalStandards = 12;
    constexpr int kWithRunLists = 13;
    Transaction transaction(db);
    for (int next = version + 1; next <= BatchFile::kSchemaVersion; ++next) {
        db.execute(kMigrations.at(static_cast<std::size_t>(next - 1)));
        if (next == kWithCarriers) {
            moveSizesToCarriers(db);
        } else if (next == kWithPayloads) {
            moveWellsToPayloads(db);
            db.execute(kViewsOfVersion6);
        } else if (next == kWithNamedFields) {
            nameEveryField(db);
        } else if (next == kWithSignals) {
            addSignalRules(db);
        } else if (next == kWithAdditionStandard) {
            addAdditionStandard(db);
        } else if (next == kWithDecisions) {
            addDecisions(db);
        } else if (next == kWithFigures) {
            addFigures(db);
        } else if (next == kWithInternalStandards) {
            addInternalStandards(db);
        } else if (next == kWithRunLists) {
            addRunLists(db);
        }
    }
    if (version > 0) {
        seal(db);
    }
    db.execute("PRAGMA user_version = " + std::to_string(BatchFile::kSchemaVersion));
    transaction.commit();
}

std::filesystem::path copyBeforeMigration(const std::filesystem::path& path, int version) {
    return path.string() + ".schema-" + std::to_string(version);
}

Result<void> keepCopy(const std::filesystem::path& path, int version) {
    const auto target = copyBeforeMigration(path, version);
    std::error_code error;
    if (std::filesystem::exists(target, error)) {
        return {};
    }
    auto copy = ReplacementFile::beside(target, ReplacementFile::Access::Private);
    if (!copy) {
        return tl::unexpected(copy.error());
    }
    std::filesystem::copy_file(path, copy->path(), std::filesystem::copy_options::overwrite_existing, error);
    return error ? fail("file.cannot-write", target.string() + " cannot be written (" + error.message() + ").", "")
                 : copy->commit();
}

} // namespace nuvat
