#include "nuvat/formats/plate_file.h"
#include "support/reference.h"

#include <gtest/gtest.h>
#include <sstream>

namespace nuvat {
namespace {

Result<PlateImport> read(const std::string& text) {
    std::istringstream stream(text);
    NoProgress progress;
    return readPlate(stream, "plate.csv", progress);
}

PlateImport good(const std::string& text) {
    auto import = read(text);
    EXPECT_TRUE(import) << (import ? "" : import.error().text());
    return import ? std::move(*import) : PlateImport{};
}

/// The Error a text gives: its code must be `code` and its sentence must name the file and `where`.
void expectError(const std::string& text, const std::string& code, const std::string& where) {
    const auto import = read(text);
    ASSERT_FALSE(import) << "taken in: " << import->understood();
    EXPECT_EQ(import.error().code, code) << import.error().text();
    EXPECT_NE(import.error().message.find("plate.csv"), std::string::npos) << import.error().message;
    EXPECT_NE(import.error().message.find(where), std::string::npos) << import.error().message;
    EXPECT_FALSE(import.error().advice.empty());
}

/// An 8 × 12 matrix with value row + column/100.
std::string matrix(char separator, char decimal, const std::string& above = "", const std::string& lineEnd = "\n") {
    std::string out = above;
    for (int column = 1; column <= 12; ++column) {
        out += separator + std::to_string(column);
    }
    for (int row = 0; row < 8; ++row) {
        out += lineEnd + static_cast<char>('A' + row);
        for (int column = 1; column <= 12; ++column) {
            std::string digits = std::to_string(100 * (row + 1) + column);
            digits.insert(1, 1, decimal);
            out += separator + digits;
        }
    }
    return out + lineEnd;
}

struct Shape {
    char separator;
    char decimal;
    const char* above;
    const char* lineEnd;
};
class MatrixShapes : public testing::TestWithParam<Shape> {};

TEST_P(MatrixShapes, AreUnderstood) {
    const Shape shape = GetParam();
    const PlateImport import = good(matrix(shape.separator, shape.decimal, shape.above, shape.lineEnd));
    ASSERT_EQ(import.rows, 8);
    ASSERT_EQ(import.columns, 12);
    EXPECT_FALSE(import.isList);
    EXPECT_EQ(import.separator, shape.separator);
    EXPECT_EQ(import.decimal, shape.decimal);
    EXPECT_EQ(import.numberCount(), 96u);
    EXPECT_EQ(import.wells[0].value, 1.01);
    EXPECT_EQ(import.wells[95].value, 8.12);
}

INSTANTIATE_TEST_SUITE_P(All, MatrixShapes,
                         testing::Values(Shape{',', '.', "", "\n"}, Shape{';', '.', "", "\r\n"},
                                         Shape{';', ',', "", "\n"}, Shape{'\t', '.', "", "\r"},
                                         Shape{'\t', ',', "Reader;x\n", "\n"},
                                         Shape{';', '.', "Plate;Week 38\nWavelength;450 nm\n\n", "\n"},
                                         Shape{',', '.', "\xEF\xBB\xBFPlate,\"a, quoted\"\n", "\n"}));

TEST(PlateFile, KeepsHeadingsAndFindsTheWavelength) {
    const PlateImport import = good(matrix(';', '.', "Plate;Week 38\n\nWavelength;450 nm;\n"));
    ASSERT_EQ(import.headings.size(), 2u);
    EXPECT_EQ(import.headings[0], "Plate Week 38");
    EXPECT_EQ(import.readName, "450 nm");
    EXPECT_EQ(import.wells[0].line, 5); // the empty line counts
    EXPECT_EQ(import.wells[0].column, 2);
}

TEST(PlateFile, ReadsAListOfWells) {
    const PlateImport import = good("Well;Sample;Absorbance\n A01;blank;0,061\nA2;x;0,200\nH12;y;1,5\n");
    EXPECT_TRUE(import.isList);
    EXPECT_EQ(import.rows, 8);
    EXPECT_EQ(import.columns, 12);
    EXPECT_EQ(import.wells[0].value, 0.061);
    EXPECT_EQ(import.wells[1].value, 0.2);
    EXPECT_EQ(import.wells[95].value, 1.5);
    EXPECT_FALSE(import.wells[2].value);
    EXPECT_TRUE(import.wells[2].text.empty()); // not read, which is not an unusable text
    EXPECT_TRUE(import.warnings.empty());
}

TEST(PlateFile, ReadsABareBlockOfAUsualPlate) {
    std::string block;
    for (int row = 0; row < 8; ++row) {
        for (int column = 0; column < 12; ++column) {
            block += (column > 0 ? "\t" : "") + std::string("0.5");
        }
        block += "\n";
    }
    EXPECT_EQ(good(block).numberCount(), 96u);
}

TEST(PlateFile, TextInAWellMakesItUnusableAndSaysWhere) {
    std::string text = matrix(';', '.');
    text.replace(text.find("4.08"), 4, "OVER");
    text.replace(text.find("2.03"), 4, "1.2a");
    const PlateImport import = good(text);
    EXPECT_EQ(import.numberCount(), 94u);
    ASSERT_EQ(import.warnings.size(), 2u);
    EXPECT_NE(import.warnings[0].message.find("plate.csv, line 3, cell 4 (well B3): \"1.2a\" is not a number"),
              std::string::npos)
        << import.warnings[0].message;
    EXPECT_NE(import.warnings[1].message.find(
                  "line 5, cell 9 (well D8): \"OVER\" is not a number, the detector was saturated"),
              std::string::npos)
        << import.warnings[1].message;
    EXPECT_EQ(import.wells[3 * 12 + 7].text, "OVER"); // kept as found
}

TEST(PlateFile, BadInputGivesASentenceWithItsPlace) {
    expectError("", "import.empty", "empty");
    expectError(" \n\n\t\n", "import.empty", "empty");
    expectError("hello\nworld\n", "import.no-numbers", "2 lines");
    expectError("a,1\nb,2\n", "import.no-plate", "2 lines");
    std::string noValues = matrix(';', '.');
    for (char& c : noValues) {
        c = c == '.' ? 'x' : c;
    }
    expectError(noValues, "import.no-numbers", "line 1");
}

TEST(PlateFile, RaggedRowsAreRefused) {
    std::string text = matrix(';', '.');
    text.erase(text.find(";3.05"), 5);
    expectError(text, "import.ragged-row", "line 4: row C has 11 cells");
    text = matrix(';', '.');
    text.insert(text.find(";3.05"), ";9.99");
    expectError(text, "import.ragged-row", "line 4: row C has 13 cells");
    expectError("Well;Sample;Value\nA1;x;1.5\nA2;y\nA3;z;2.5\n", "import.ragged-row", "line 3");
}

TEST(PlateFile, MissingAndDoubledRowsAreRefused) {
    std::string text = matrix(';', '.');
    const auto rowC = text.find("\nC;");
    std::string missing = text;
    missing.erase(rowC, text.find("\nD;") - rowC);
    expectError(missing, "import.row-missing", "row C is missing");
    std::string twice = text;
    twice.insert(rowC, text.substr(rowC, text.find("\nD;") - rowC));
    expectError(twice, "import.row-twice", "line 4 and line 5");
}

TEST(PlateFile, TwoPlatesAreRefused) {
    expectError(matrix(';', '.') + "\n" + matrix(';', '.'), "import.two-plates", "the second on line 11");
    expectError("A1;1\nA2;2\nA1;1\nA2;2\n", "import.two-plates", "line 3");
}

TEST(PlateFile, AWellGivenTwiceIsRefused) {
    expectError("A1;1.5\nA2;2.5\nA3;2\nA2;7\n", "import.well-twice", "line 2 and line 4");
    expectError("Well;Value\nA1;1.5\nA2;2.5\nsum;4\n", "import.well-name", "line 4, cell 1");
}

TEST(PlateFile, LinesBelowThePlateAreLeftOutAndSaidSo) {
    const PlateImport import = good(matrix(';', '.') + "\nmeasured by;reader 2\n");
    ASSERT_EQ(import.warnings.size(), 1u);
    EXPECT_NE(import.warnings[0].message.find("line 11"), std::string::npos) << import.warnings[0].message;
}

TEST(PlateFile, AnUnusualPlateIsTakenWithAWarning) {
    const PlateImport import = good(";1;2;3\nA;0.1;0.2;0.3\nB;0.4;0.5;0.6\nC;0.7;0.8;0.9\n");
    EXPECT_EQ(import.rows, 3);
    ASSERT_EQ(import.warnings.size(), 1u);
    EXPECT_NE(import.warnings[0].message.find("3 rows and 3 columns"), std::string::npos);
}

TEST(PlateFile, ADoubtfulCommaIsSaid) {
    const PlateImport import = good(";1;2;3\nA;1,234;2,345;3,456\nB;1,111;2,222;3,333\n");
    ASSERT_FALSE(import.warnings.empty());
    EXPECT_NE(import.warnings[0].message.find("if it marks thousands"), std::string::npos)
        << import.warnings[0].message;
    EXPECT_TRUE(good(";1;2;3\nA;0,234;2,345;3,456\nB;1,111;2,222;3,333\n").warnings.empty()); // 0,234 is no thousand
}

TEST(PlateFile, BinaryAndUnknownEncodingsAreRefused) {
    expectError(std::string("PK\x03\x04\0\0\0\x08", 8), "import.binary", "line 1");
    expectError(std::string("\x7F") + "ELF\x02\x01", "import.binary", "control character");
    expectError("Gr\x81\x84\xE1\xFF\xFE;1\nA;2\n", "import.encoding", "line 1");
    expectError("\xFF\xFE\x31", "import.encoding", "half a character");
    // A stray Latin-1 degree sign among UTF-8.
    expectError("Temperatur \xC2\xB0"
                "C\nGr\xB0n\nA1,1\n",
                "import.encoding", "line 2");
    expectError("plate;\"open\n1;2\nA;3;4\n", "import.quote-open", "line 1");
}

TEST(PlateFile, ReadsLatin1AndUtf16) {
    const PlateImport latin = good(matrix(';', '.', "Konzentration;\xB5g/L\n"));
    EXPECT_EQ(latin.encoding, "Latin-1");
    EXPECT_EQ(latin.headings[0], "Konzentration µg/L");
    std::string wide = "\xFF\xFE";
    for (const char c : matrix('\t', '.')) {
        wide += c;
        wide += '\0';
    }
    EXPECT_EQ(good(wide).numberCount(), 96u);
    EXPECT_EQ(good(wide).encoding, "UTF-16");
    EXPECT_EQ(good(wide.substr(2)).numberCount(), 96u); // without its mark too
}

TEST(PlateFile, TenMillionCellsAreRefusedEarly) {
    // A stream that makes its rows as they are read: the reader must stop long before the end.
    class Endless : public std::streambuf {
    public:
        std::size_t given = 0;

    protected:
        int_type underflow() override {
            if (given > 10'000'000u * 4) {
                return traits_type::eof();
            }
            m_chunk.clear();
            while (m_chunk.size() < 65536) {
                m_chunk += "0.5;0.5;0.5;0.5;0.5;0.5;0.5;0.5;0.5;0.5\n";
            }
            given += m_chunk.size();
            setg(m_chunk.data(), m_chunk.data(), m_chunk.data() + m_chunk.size());
            return traits_type::to_int_type(m_chunk.front());
        }

    private:
        std::string m_chunk;
    };
    Endless buffer;
    std::istream stream(&buffer);
    NoProgress progress;
    const auto import = readPlate(stream, "plate.csv", progress);
    ASSERT_FALSE(import);
    EXPECT_EQ(import.error().code, "import.too-large");
    EXPECT_LT(buffer.given, 4'000'000u); // memory stays bounded whatever the file holds
}

TEST(PlateFile, AFailingStreamIsAnErrorNotAShorterPlate) {
    class Failing : public std::streambuf {
    protected:
        int_type underflow() override {
            if (m_isDone) {
                throw std::runtime_error("disk gone");
            }
            m_isDone = true;
            setg(m_text.data(), m_text.data(), m_text.data() + m_text.size());
            return traits_type::to_int_type(m_text.front());
        }

    private:
        std::string m_text = matrix(';', '.');
        bool m_isDone = false;
    };
    Failing buffer;
    std::istream stream(&buffer);
    NoProgress progress;
    const auto import = readPlate(stream, "plate.csv", progress);
    ASSERT_FALSE(import);
    EXPECT_EQ(import.error().code, "import.unreadable");
}

TEST(PlateFile, CanBeCancelled) {
    class Cancelled : public NoProgress {
    public:
        bool cancelled() const override { return true; }
    } progress;
    std::istringstream stream(matrix(';', '.'));
    EXPECT_EQ(readPlate(stream, "plate.csv", progress).error().code, "import.cancelled");
}

// Cut at every length, a good file is a smaller plate, an Error, or the plate with its last number shorter: never a
// crash.
TEST(PlateFile, CutAtEveryLengthNeverCrashes) {
    const std::string whole =
        test::contentOf(std::filesystem::path(NUVAT_DEMO_DIR) / "patulin-elisa" / "plate-450.csv");
    for (std::size_t length = 0; length <= whole.size(); ++length) {
        const auto import = read(whole.substr(0, length));
        if (import) {
            EXPECT_GE(import->rows, 1);
            EXPECT_EQ(import->wells.size(), static_cast<std::size_t>(import->rows * import->columns));
        } else {
            EXPECT_FALSE(import.error().message.empty());
        }
    }
}

// Tables as people copy them from a text window: blanks part the cells.
TEST(PlateFile, BlanksPartCells) {
    const PlateImport matrix = good("Read at 450 nm\n     1     2     3\nA  0,12  0,15  0,31\nB  0,11  0,16  0,29\n");
    EXPECT_EQ(matrix.rows, 2);
    EXPECT_EQ(matrix.columns, 3);
    EXPECT_EQ(matrix.wells[5].value, 0.29);
    EXPECT_NE(matrix.understood().find("blank-separated, decimal comma"), std::string::npos) << matrix.understood();
    const PlateImport list = good("A1 0.153\nA2 0.161\nB1 0.352\n");
    EXPECT_TRUE(list.isList);
    EXPECT_EQ(list.numberCount(), 3u);
}

TEST(PlateFile, ThousandsAreReadWhereNothingElseIsPossible) {
    const PlateImport list = good("Well;Area\nA1;1.234,50\nA2;12.345.678,25\nB1;999,00\n");
    EXPECT_EQ(list.wells[0].value, 1234.5);
    EXPECT_EQ(list.wells[1].value, 12345678.25);
}

TEST(PlateFile, AListOfSamplesIsNoPlate) {
    const auto import = read("sample,value\np0,0.12\np1,0.52\np2,0.74\n");
    ASSERT_FALSE(import);
    EXPECT_EQ(import.error().code, "import.well-name");
    EXPECT_NE(import.error().text().find("\"p0\" is not the name of a well"), std::string::npos);
    EXPECT_TRUE(read("Plate 1,\nwell,OD 450\nA1,0.12\nA2,0.52\n")); // words above a list of wells are none
}

TEST(CsvCell, QuotesAndGuardsFormulas) {
    EXPECT_EQ(csvCell("plain"), "plain");
    EXPECT_EQ(csvCell("a,b"), "\"a,b\"");
    EXPECT_EQ(csvCell("say \"hi\""), "\"say \"\"hi\"\"\"");
    EXPECT_EQ(csvCell("=1+1"), "'=1+1");
    EXPECT_EQ(csvCell("@SUM(A1)"), "'@SUM(A1)");
    EXPECT_EQ(csvCell("-1.5"), "-1.5"); // a number stays a number
    EXPECT_EQ(csvCell("+1.5 %"), "+1.5 %");
    EXPECT_EQ(csvCell("-"), "-");
    // Blanks before a formula do not hide it, also those that do not break; a control character is no part of a name.
    EXPECT_EQ(csvCell(" =1+1"), "' =1+1");
    EXPECT_EQ(csvCell("\xC2\xA0=1+1"), "'\xC2\xA0=1+1");
    EXPECT_EQ(csvCell("\n=1+1"), "\"'\n=1+1\"");
    EXPECT_EQ(csvCell("-2+cmd()"), "'-2+cmd()");
    EXPECT_EQ(csvCell("a\x1B[2Jb"), "a [2Jb");
}

} // namespace
} // namespace nuvat
