// libFuzzer target: whatever the bytes, the reader of delimited text answers with a table or an Error.
#include "nuvat/formats/column_table.h"
#include "nuvat/formats/delimited_table.h"
#include "nuvat/formats/plate_file.h"

#include <cstdint>
#include <sstream>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string bytes(reinterpret_cast<const char*>(data), size);
    nuvat::NoProgress progress;
    std::istringstream table(bytes);
    (void)nuvat::readDelimited(table, "fuzz", progress);
    std::istringstream columns(bytes);
    if (const auto read = nuvat::ColumnTable::read(columns, "fuzz", progress, {})) {
        for (std::size_t row = 0; row < read->rowCount(); ++row) {
            for (std::size_t column = 0; column < read->headings().size(); ++column) {
                (void)read->cell(row, column);
                (void)read->number(row, column);
            }
        }
    }
    std::istringstream plate(bytes);
    (void)nuvat::readPlate(plate, "fuzz", progress);
    return 0;
}
