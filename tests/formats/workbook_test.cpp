// Spreadsheets: files written by other people's libraries (tests/fixtures/spreadsheets/make.sh says how), and small
// archives made here for what those libraries do not write. Rules: ECMA-376 part 1, ISO/IEC 26300.
#include "nuvat/core/base/checksum.h"
#include "nuvat/formats/any_file.h"
#include "nuvat/formats/workbook.h"
#include "support/wells.h"

#include <filesystem>
#include <fstream>
#include <gtest/gtest.h>
#include <zip.h>

namespace nuvat {
namespace {

std::filesystem::path fixture(const std::string& name) {
    return std::filesystem::path(NUVAT_TEST_DIR) / "fixtures/spreadsheets" / name;
}

double ruleAt(int row, int column) {
    return 0.103 + 0.037 * (12 * row + column);
}

std::vector<PlateImport> platesOf(const std::string& name) {
    NoProgress progress;
    auto content = readAnyFile(fixture(name), progress);
    EXPECT_TRUE(content) << (content ? "" : content.error().message);
    auto* plates = content ? std::get_if<std::vector<PlateImport>>(&*content) : nullptr;
    EXPECT_NE(plates, nullptr);
    return plates ? *plates : std::vector<PlateImport>();
}

using Parts = std::vector<std::pair<std::string, std::string>>;

/// The bytes of an archive with these parts.
std::string zipOf(const Parts& parts) {
    const auto path = std::filesystem::temp_directory_path() / ("workbook" + std::to_string(::getpid()) + ".zip");
    int error = 0;
    zip_t* archive = zip_open(path.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &error);
    for (const auto& [name, text] : parts) {
        zip_source_t* source = zip_source_buffer(archive, text.data(), text.size(), 0);
        zip_file_add(archive, name.c_str(), source, ZIP_FL_OVERWRITE);
    }
    EXPECT_EQ(zip_close(archive), 0);
    std::ifstream in(path, std::ios::binary);
    std::string bytes((std::istreambuf_iterator<char>(in)), {});
    std::filesystem::remove(path);
    return bytes;
}

/// An XLSX whose only sheet, "Data", has these rows. @param more parts beside
Parts xlsxParts(const std::string& rows, const Parts& more = {}, const std::string& properties = "") {
    const std::string types = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";
    Parts out{{"_rels/.rels", "<Relationships><Relationship Id=\"a\" Type=\"" + types +
                                  "/officeDocument\" Target=\"/xl/workbook.xml\"/></Relationships>"},
              {"xl/workbook.xml", "<workbook xmlns:r=\"" + types + "\">" + properties +
                                      "<sheets><sheet name=\"Data\" sheetId=\"9\" r:id=\"x\"/></sheets></workbook>"},
              {"xl/_rels/workbook.xml.rels",
               "<Relationships><Relationship Id=\"x\" Type=\"" + types +
                   "/worksheet\" Target=\"worksheets/one.xml\"/><Relationship Id=\"s\" Type=\"" + types +
                   "/styles\" Target=\"styles.xml\"/><Relationship Id=\"t\" Type=\"" + types +
                   "/sharedStrings\" Target=\"sharedStrings.xml\"/></Relationships>"},
              {"xl/worksheets/one.xml", "<worksheet><sheetData>" + rows + "</sheetData></worksheet>"}};
    out.insert(out.end(), more.begin(), more.end());
    return out;
}

Result<Workbook> read(const Parts& parts) {
    NoProgress progress;
    return readWorkbook(zipOf(parts), "a.xlsx", progress);
}

std::map<std::string, std::string> cellsOf(const Sheet& sheet) {
    std::map<std::string, std::string> out;
    for (const SheetCell& cell : sheet.cells) {
        out[cellName(cell.row, cell.column)] = cell.text;
    }
    return out;
}

/// The cells of the sheet of xlsxParts().
std::map<std::string, std::string> cells(const Parts& parts) {
    const auto workbook = read(parts);
    EXPECT_TRUE(workbook) << (workbook ? "" : workbook.error().message);
    return workbook ? cellsOf(workbook->sheets.at(0)) : std::map<std::string, std::string>();
}

std::string code(const Parts& parts) {
    const auto workbook = read(parts);
    return workbook ? "read" : workbook.error().code;
}

Parts odsParts(const std::string& rows, const std::string& mimetype = "spreadsheet") {
    return {
        {"mimetype", "application/vnd.oasis.opendocument." + mimetype},
        {"content.xml", "<office:document-content><office:body><office:spreadsheet><table:table table:name=\"Data\">" +
                            rows + "</table:table></office:spreadsheet></office:body></office:document-content>"}};
}

class Spreadsheets : public testing::TestWithParam<const char*> {};

TEST_P(Spreadsheets, APlateIsReadAsTheOtherLibraryWroteIt) {
    const std::string name = GetParam();
    const auto plates = platesOf(name);
    ASSERT_EQ(plates.size(), 2u) << "one a sheet; that with notes holds none and the hidden one is left out";
    const PlateImport& plate = plates[0];
    EXPECT_EQ(plate.rows, 8);
    EXPECT_EQ(plate.columns, 12);
    EXPECT_EQ(plate.source, name);
    EXPECT_EQ(plate.readName, "450 nm");
    EXPECT_EQ(plate.understood(),
              "8 × 12 matrix, sheet Reading, " + std::string(name.ends_with("ods") ? "ODS" : "XLSX"));
    EXPECT_EQ(plate.headings, (std::vector<std::string>{"Plate 1, absorbance at 450 nm", "Read 2026-09-14 10:20:00"}));
    for (int row = 0; row < 8; ++row) {
        for (int column = 0; column < 12; ++column) {
            const PlateCell& cell = plate.wells.at(static_cast<std::size_t>(12 * row + column));
            if ((row == 1 && column == 1) || (row == 2 && column == 2)) {
                EXPECT_FALSE(cell.value) << "an overflow, and a division by zero";
                EXPECT_FALSE(cell.text.empty());
                continue;
            }
            ASSERT_TRUE(cell.value);
            EXPECT_DOUBLE_EQ(*cell.value, ruleAt(row, column)); // each library writes 15 to 17 digits
        }
    }
    EXPECT_EQ(plates[1].readName, "620 nm");
    EXPECT_EQ(plates[1].rows, 2);
    EXPECT_NEAR(plates[1].wells.at(5).value.value_or(0), ruleAt(1, 2), 1e-14);
    std::string warnings;
    for (const ImportWarning& warning : plate.warnings) {
        warnings += warning.message + "\n";
    }
    EXPECT_NE(warnings.find(name + ", sheet Reading, cell C6 (well B2): \"OVER\""), std::string::npos) << warnings;
    EXPECT_NE(warnings.find("cell D7 (well C3)"), std::string::npos) << warnings;
    EXPECT_NE(warnings.find("Sheet Notes was left out"), std::string::npos) << warnings;
    EXPECT_NE(warnings.find("Sheet Old is hidden"), std::string::npos) << warnings;
}

INSTANTIATE_TEST_SUITE_P(Libraries, Spreadsheets,
                         testing::Values("openpyxl.xlsx", "libreoffice.xlsx", "libreoffice.ods"), [](const auto& one) {
                             std::string name = one.param;
                             name[name.find('.')] = '_';
                             return name;
                         });

TEST(Workbook, TablesOfOtherProgramsAreTheSameReadings) {
    const auto list = platesOf("odfpy.ods");
    ASSERT_EQ(list.size(), 1u);
    EXPECT_TRUE(list[0].isRunList);
    EXPECT_EQ(list[0].names.at(2), "cuvette 3");
    EXPECT_EQ(list[0].wells.at(1).value, ruleAt(0, 1)) << "the value, not the 0.14 that the cell shows";
    for (const char* name : {"r.csv", "r2.csv"}) {
        const auto plates = platesOf(name);
        ASSERT_EQ(plates.size(), 1u) << name;
        EXPECT_EQ(plates[0].wells.at(5).value, 0.621) << name;
    }
}

TEST(Workbook, CellsStandWhereTheySayOrFollowEachOther) {
    const auto found = cells(xlsxParts("<row><c><v>1</v></c><c><v>2</v></c></row><row><c><v>3</v></c></row>"
                                       "<row r=\"9\"><c r=\"C9\"><v>4</v></c><c><v>5</v></c></row>"));
    EXPECT_EQ(found,
              (std::map<std::string, std::string>{{"A1", "1"}, {"B1", "2"}, {"A2", "3"}, {"C9", "4"}, {"D9", "5"}}));
    EXPECT_EQ(cells(xlsxParts("<row><x:c xmlns:x=\"y\" r=\"XFD1048576\"><x:v>1</x:v></x:c></row>")).begin()->first,
              "XFD1048576");
}

TEST(Workbook, TextsAreWhole) {
    const auto found = cells(xlsxParts(
        "<row><c t=\"s\"><v>0</v></c><c t=\"inlineStr\"><is><t>in</t></is></c><c t=\"str\"><v>a_x0041_b</v></c>"
        "<c t=\"b\"><v>1</v></c><c t=\"e\"><v>#N/A</v></c><c t=\"s\"><v>1</v></c><c><f>1+1</f></c></row>",
        {{"xl/sharedStrings.xml", "<sst><si><r><t>rich </t></r><r><t>text</t></r><rPh><t>spoken</t></rPh></si>"
                                  "<si><t>_x00B5_g</t></si></sst>"}}));
    EXPECT_EQ(found, (std::map<std::string, std::string>{{"A1", "rich text"},
                                                         {"B1", "in"},
                                                         {"C1", "aAb"},
                                                         {"D1", "TRUE"},
                                                         {"E1", "#N/A"},
                                                         {"F1", "µg"},
                                                         {"G1", "no value"}}));
}

TEST(Workbook, DatesAreKnownByTheirFormatAndNeverReadings) {
    const Parts styles{{"xl/styles.xml",
                        "<styleSheet><numFmts><numFmt numFmtId=\"170\" formatCode=\"dd/mm/yy\\\\ hh:mm\"/>"
                        "<numFmt numFmtId=\"171\" formatCode=\"[Red]0.00&quot; days&quot;\"/>"
                        "<numFmt numFmtId=\"172\" formatCode=\"[h]:mm\"/></numFmts>"
                        "<cellStyleXfs><xf numFmtId=\"14\"/></cellStyleXfs>"
                        "<cellXfs><xf numFmtId=\"0\"/><xf numFmtId=\"14\"/><xf numFmtId=\"170\"/>"
                        "<xf numFmtId=\"171\"/><xf numFmtId=\"172\"/></cellXfs></styleSheet>"}};
    const std::string rows = "<row><c><v>40204</v></c><c s=\"1\"><v>40204</v></c><c s=\"2\"><v>40204.0430902778</v></c>"
                             "<c s=\"3\"><v>2</v></c><c s=\"4\"><v>0.0625</v></c><c s=\"1\"><v>59</v></c>"
                             "<c s=\"1\"><v>61</v></c></row>";
    // Serial numbers: 40204 is 2010-01-26; day 60 is the 29 February 1900 that never was (ECMA-376 part 1, 18.17.4).
    EXPECT_EQ(cells(xlsxParts(rows, styles)), (std::map<std::string, std::string>{{"A1", "40204"},
                                                                                  {"B1", "2010-01-26"},
                                                                                  {"C1", "2010-01-26 01:02:03"},
                                                                                  {"D1", "2"},
                                                                                  {"E1", "01:30:00"},
                                                                                  {"F1", "1900-02-28"},
                                                                                  {"G1", "1900-03-01"}}));
    const auto from1904 = cells(xlsxParts(rows, styles, "<workbookPr date1904=\"1\"/>"));
    EXPECT_EQ(from1904.at("B1"), "2014-01-27") << "1462 days later";
}

TEST(Workbook, OpenDocumentRepeatsAndPads) {
    const auto found = cells(odsParts(
        "<table:table-row table:number-rows-repeated=\"2\"><table:table-cell table:number-columns-repeated=\"3\" "
        "office:value-type=\"float\" office:value=\"0.5\"><text:p>1</text:p></table:table-cell></table:table-row>"
        "<table:table-row><table:table-cell/><table:covered-table-cell office:value-type=\"float\" office:value=\"9\"/>"
        "<table:table-cell office:value-type=\"string\"><office:annotation><text:p>note</text:p></office:annotation>"
        "<text:p>a<text:s text:c=\"2\"/>b</text:p><text:p>c</text:p></table:table-cell>"
        "<table:table-cell office:value-type=\"string\" calcext:value-type=\"error\"><text:p>#DIV/0!</text:p>"
        "</table:table-cell><table:table-cell office:value-type=\"date\" office:date-value=\"2026-09-14T10:20:00\"/>"
        "</table:table-row><table:table-row table:number-rows-repeated=\"1048573\"><table:table-cell "
        "table:number-columns-repeated=\"16384\"/></table:table-row>"));
    EXPECT_EQ(found, (std::map<std::string, std::string>{{"A1", "0.5"},
                                                         {"B1", "0.5"},
                                                         {"C1", "0.5"},
                                                         {"A2", "0.5"},
                                                         {"B2", "0.5"},
                                                         {"C2", "0.5"},
                                                         {"C3", "a  b\nc"},
                                                         {"D3", "#DIV/0!"},
                                                         {"E3", "2026-09-14 10:20:00"}}));
}

TEST(Workbook, WhatCannotBeTrustedIsRefused) {
    const auto row = [](const std::string& cell) { return xlsxParts("<row>" + cell + "</row>"); };
    EXPECT_EQ(code(row("<c><v>1,5</v></c>")), "workbook.cell");
    EXPECT_EQ(code(row("<c><v>NaN</v></c>")), "workbook.cell");
    EXPECT_EQ(code(row("<c><v>1e999</v></c>")), "workbook.cell");
    EXPECT_EQ(code(row("<c t=\"s\"><v>0</v></c>")), "workbook.cell");
    EXPECT_EQ(code(row("<c r=\"1A\"><v>1</v></c>")), "workbook.cell");
    EXPECT_EQ(code(row("<c r=\"XFE1\"><v>1</v></c>")), "workbook.cell");
    EXPECT_EQ(code(row("<c r=\"A1\"><v>1</v></c><c r=\"A1\"><v>2</v></c>")), "workbook.cell");
    EXPECT_EQ(code(xlsxParts("<row>", {})), "workbook.xml");
    EXPECT_EQ(code({{"xl/workbook.xml", "<!DOCTYPE a><workbook/>"}}), "workbook.xml");
    EXPECT_EQ(code({{"readme.txt", "none"}}), "workbook.none");
    EXPECT_EQ(code(odsParts("", "text")), "workbook.none");
    EXPECT_EQ(code(odsParts("<table:table-row table:number-rows-repeated=\"-3\"/>")), "workbook.xml");
    EXPECT_EQ(code(odsParts("<table:table-row><table:table-cell office:value-type=\"float\" office:value=\"abc\"/>"
                            "</table:table-row>")),
              "workbook.cell");
    Parts locked = odsParts("");
    locked.emplace_back("META-INF/manifest.xml", "<manifest:encryption-data/>");
    EXPECT_EQ(code(locked), "workbook.protected");
    const auto refused = read(row("<c r=\"B7\"><v>x</v></c>"));
    EXPECT_EQ(refused.error().message,
              "a.xlsx: Sheet Data, cell B7: \"x\" is not a number, though the cell says that it holds one.");
}

TEST(Workbook, AMillionRepeatedNumbersStopBeforeTheyFillMemory) {
    EXPECT_EQ(code(odsParts("<table:table-row table:number-rows-repeated=\"1000000\"><table:table-cell "
                            "table:number-columns-repeated=\"16384\" office:value-type=\"float\" office:value=\"1\"/>"
                            "</table:table-row>")),
              "workbook.too-large");
    EXPECT_EQ(code(xlsxParts("<row>" + std::string(60'000'000, ' ') + "</row>")), "zip.too-large");
}

TEST(Workbook, DamagedArchivesAreRefused) {
    std::string bytes = zipOf(xlsxParts("<row><c><v>" + std::string(300, '1') + "</v></c></row>"));
    NoProgress progress;
    for (const std::size_t cut : {bytes.size() - 10, bytes.size() / 2}) {
        EXPECT_EQ(readWorkbook(bytes.substr(0, cut), "a.xlsx", progress).error().code, "zip.damaged");
    }
}

TEST(Workbook, CommasInTextsDecideWhereNoNumberStands) {
    const std::string heading = "<row><c><v>1</v></c></row>";
    const auto text = [](const std::string& value) { return "<c t=\"str\"><v>" + value + "</v></c>"; };
    const auto workbook = read(xlsxParts("<row>" + text("Well") + text("450 nm") + "</row><row>" + text("A1") +
                                         text("0,5") + "</row><row>" + text("A2") + text("1,25") + "</row>"));
    const auto content = readSheets(*workbook, "a.xlsx", "c");
    ASSERT_TRUE(content);
    const PlateImport& plate = std::get<std::vector<PlateImport>>(*content).at(0);
    EXPECT_EQ(plate.wells.at(0).value, 0.5);
    EXPECT_EQ(plate.wells.at(1).value, 1.25);
    EXPECT_EQ(plate.checksum, "c");
}

} // namespace
} // namespace nuvat
