#include "store_errors.h"

namespace nuvat {

tl::unexpected<Error> cannotWrite(const std::filesystem::path& path, const std::string& why) {
    return fail("store.cannot-write",
                path.string() + " cannot be written (" + why + "); the batch is as it was before.",
                "Check that the disk has room and that you may write there, or save it under another name.");
}

tl::unexpected<Error> cannotRecord(const std::filesystem::path& path, const SqliteError& e) {
    const std::string name = path.string();
    if (e.primary() == SQLITE_BUSY || e.primary() == SQLITE_LOCKED) {
        return fail("store.busy",
                    name + " is being used by another program just now, perhaps a backup; this edit was not made.",
                    "Try it again in a moment.");
    }
    if (e.code == SQLITE_READONLY_DBMOVED || e.code == SQLITE_IOERR_FSTAT || !std::filesystem::exists(path)) {
        return fail("store.moved", name + " was moved, renamed or removed since it was opened; this edit was not made.",
                    "Save the batch under another name (Ctrl+S); nothing of it is lost.");
    }
    if (e.primary() == SQLITE_READONLY || e.primary() == SQLITE_PERM || e.primary() == SQLITE_CANTOPEN) {
        return fail("store.read-only", name + " or its folder may not be written; this edit was not made.",
                    "Save the batch under another name (Ctrl+S), or ask for the right to write there.");
    }
    if (e.primary() == SQLITE_FULL) {
        return fail("store.disk-full", name + " cannot be written because the disk is full; this edit was not made.",
                    "Make room and try it again; nothing is lost.");
    }
    return cannotWrite(path, e.what());
}

tl::unexpected<Error> damaged(const std::string& name, const std::string& why) {
    return fail("store.damaged", name + " is damaged: " + why + ".", "Take a copy of the file from a backup.");
}

std::string noteOnOlder(const std::string& name) {
    return name + " was made by an earlier Nuvat. Intervals, ranges and criteria follow the present rules, so numbers "
                  "may differ from an earlier report; \"Results that change\" in the list of changes says which.";
}

std::string noteOnBrokenSeal(const std::string& name) {
    return name +
           " is not as Nuvat left it: its levels, samples, roles or settings were changed by another program or by "
           "a fault of the disk. It is open for reading only; compare it with a report or a copy from a backup, and "
           "save it under another name to go on with it as it is.";
}

} // namespace nuvat
