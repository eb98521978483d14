#pragma once

#include "nuvat/formats/workbook.h"
#include "xml_reader.h"
#include "zip_archive.h"

namespace nuvat {

// What the readers of both kinds of spreadsheet share.

constexpr const char* kWorkbookXml = "workbook.xml"; ///< code of errors
constexpr int kMostRows = 1'048'576, kMostColumns = 16'384;

/// The sheets while they are read: bounds them, and refuses what cannot be trusted.
class SheetDraft {
public:
    explicit SheetDraft(Sheet& sheet, std::size_t& cells) : m_sheet(sheet), m_cells(cells) {}
    /// @return workbook.too-large, workbook.cell
    Result<void> add(SheetCell cell);
    /// A number from its text. @return workbook.cell when it is none
    Result<void> addNumber(int row, int column, std::string_view text);
    /// workbook.cell: "Sheet Data, cell B7: …"
    tl::unexpected<Error> refuse(int row, int column, const std::string& why) const;
    /// Sorts the cells. @return workbook.cell when one is given twice
    Result<void> finish();

private:
    Sheet& m_sheet;
    std::size_t& m_cells; ///< of all sheets so far
};

/// Reads one part of an archive by `reader`.
Result<void> readPart(const ZipArchive& archive, const std::string& entry, XmlReader& reader, Progress& progress,
                      const std::string& name);

Result<Workbook> readXlsx(const ZipArchive& archive, const std::string& name, Progress& progress);
Result<Workbook> readOds(const ZipArchive& archive, const std::string& name, Progress& progress);

} // namespace nuvat
