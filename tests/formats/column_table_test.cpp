// A table of columns has to hold what the plain reader of delimited text and parseNumber find, whatever the notation.
#include "nuvat/core/base/well.h"
#include "nuvat/formats/column_table.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <gtest/gtest.h>
#include <random>
#include <sstream>

namespace nuvat {
namespace {

const DelimitedLimits kLimits{};

Result<ColumnTable> read(const std::string& text, const DelimitedLimits& limits = kLimits,
                         const std::vector<std::string>& wanted = {}) {
    std::istringstream stream(text);
    NoProgress progress;
    return ColumnTable::read(stream, "data.csv", progress, limits, wanted);
}

ColumnTable good(const std::string& text, const DelimitedLimits& limits = kLimits) {
    auto table = read(text, limits);
    EXPECT_TRUE(table) << (table ? "" : table.error().text());
    return table ? std::move(*table) : ColumnTable();
}

std::string codeOf(const std::string& text, const DelimitedLimits& limits = kLimits) {
    const auto table = read(text, limits);
    return table ? "" : table.error().code;
}

/// The slow and obvious way: every cell as text, then parseNumber.
void expectSameAsPlainReader(const std::string& text) {
    std::istringstream stream(text);
    NoProgress progress;
    const auto plain = readDelimited(stream, "data.csv", progress);
    ASSERT_TRUE(plain) << plain.error().text();
    const ColumnTable table = good(text);
    ASSERT_EQ(table.rowCount() + 1, plain->rows.size()) << text;
    for (std::size_t row = 0; row < table.rowCount(); ++row) {
        const DelimitedRow& expected = plain->rows[row + 1];
        EXPECT_EQ(table.line(row), expected.line);
        for (std::size_t column = 0; column < table.headings().size(); ++column) {
            const std::string cell = column < expected.cells.size() ? expected.cells[column] : "";
            EXPECT_EQ(table.cell(row, column), trimmed(cell)) << "line " << expected.line;
            const auto value = parseNumber(cell, plain->numbers);
            const auto number = table.number(row, column);
            ASSERT_EQ(number.has_value(), value.has_value()) << cell;
            if (value) {
                EXPECT_EQ(*number, *value) << cell;
            }
        }
    }
}

class ColumnNotations : public testing::TestWithParam<const char*> {};

TEST_P(ColumnNotations, HoldWhatThePlainReaderFinds) {
    expectSameAsPlainReader(GetParam());
}

INSTANTIATE_TEST_SUITE_P(
    All, ColumnNotations,
    testing::Values("x,y\n1,2\n3,4\n", "x;y\r\n1,5;2,25\r\n3;4\r\n", "x\ty\r1\t2\r3\t4", "x;y\n1.5;2\n;\n3;4",
                    "\n\n x , y \n 1 , -2.5e-3 \n\n+3,\xE2\x88\x92"
                    "4\n   \n5,6\n",
                    "name,y\nA,1\n\"B, late\",2\n\"C \"\"x\"\"\",3\n", "x,y,note\n1,2\n3,4,fine,,\n",
                    "\xEF\xBB\xBFx,y\n1,2\n", "x,y\n\"1\",\"2\"\n3,4\n", "x,y\n1,n/a\n,4\n", "x\n1\n2\n",
                    "x,y\n12345678,123456789012345678\n0.1,1e22\n1e23,1e-23\n-0,.5\n5.,1e5\n1e400,0x10\n"));

// Property: any double that is written in any plain way reads back as parseNumber reads it, which reads it exactly
// (std::from_chars, correctly rounded).
TEST(ColumnTable, ReadsEveryNumberToTheLastBit) {
    std::mt19937_64 random(20261125);
    std::uniform_int_distribution<int> digits(0, 12);
    std::uniform_int_distribution<int> digit('0', '9');
    std::uniform_int_distribution<int> exponent(-30, 30);
    std::string text = "x,y\n";
    for (int row = 0; row < 3000; ++row) {
        for (int column = 0; column < 2; ++column) {
            std::string cell = random() % 3 == 0 ? "-" : "";
            for (int k = digits(random); k >= 0; --k) {
                cell += static_cast<char>(digit(random));
            }
            if (random() % 4 != 0) {
                cell += '.';
                for (int k = digits(random); k > 0; --k) {
                    cell += static_cast<char>(digit(random));
                }
            }
            if (random() % 4 == 0) {
                cell += 'e';
                cell += std::to_string(exponent(random));
            }
            text += cell;
            text += column == 0 ? ',' : '\n';
        }
    }
    expectSameAsPlainReader(text);
}

TEST(ColumnTable, FindsTheNotationOfALongFileThatShowsItOnlyInTheMiddle) {
    std::string text = "x;y\n";
    for (int row = 0; row < 20000; ++row) {
        text += std::to_string(row) + (row == 10000 ? ";1,5\n" : ";2\n");
    }
    const ColumnTable table = good(text);
    ASSERT_EQ(table.rowCount(), 20000u);
    EXPECT_EQ(table.numbers().decimal, ',');
    EXPECT_EQ(*table.number(10000, 1), 1.5);
    EXPECT_EQ(table.column(0)->back(), 19999);
    EXPECT_EQ(table.line(19999), 20001);
}

/// Some megabytes, which threads read part by part: lines of any ending, empty ones, words, numbers of many lengths.
struct LongText {
    std::string text = "x,note,y\n";
    std::vector<std::array<std::string, 3>> rows;
    std::vector<int> lines;
};
LongText longText() {
    LongText out;
    std::mt19937_64 random(7);
    std::uniform_real_distribution<double> uniform(-1000, 1000);
    int line = 1;
    while (out.text.size() < 5'000'000) {
        ++line;
        const auto kind = random() % 16;
        if (kind == 0) {
            out.text += "\r\n"; // LF alone would go with a CR before it
            continue;
        }
        std::array<std::string, 3> row{formatNumber(uniform(random)), kind == 1 ? "late" : "", std::to_string(line)};
        row[2] = kind == 2 ? "n/a" : kind == 3 ? row[2] + "e-" + row[2].substr(0, 1) : row[2];
        out.text += row[0] + "," + row[1] + "," + row[2] + (kind == 4 ? "\r\n" : kind == 5 ? "\r" : "\n");
        out.rows.push_back(row);
        out.lines.push_back(line);
    }
    return out;
}

TEST(ColumnTable, ReadsALongTextInPartsAsItStands) {
    const LongText expected = longText();
    const ColumnTable table = good(expected.text, {.mostBytes = 1u << 23, .mostCells = 1'000'000});
    ASSERT_EQ(table.rowCount(), expected.rows.size());
    for (std::size_t row = 0; row < table.rowCount(); ++row) {
        for (std::size_t column = 0; column < 3; ++column) {
            const std::string& cell = expected.rows[row][column];
            ASSERT_EQ(table.cell(row, column), cell) << row;
            if (const auto value = parseNumber(cell)) {
                ASSERT_EQ(*table.number(row, column), *value) << row;
            } else if (row % 512 == 0) { // its sentence counts the lines
                ASSERT_FALSE(table.number(row, column)) << row;
            }
        }
    }
    for (std::size_t row = 0; row < table.rowCount(); row += table.rowCount() / 23) {
        EXPECT_EQ(table.line(row), expected.lines[row]);
    }
    const std::vector<double> column = *table.column(0);
    ASSERT_EQ(column.size(), expected.rows.size());
    for (std::size_t row = 0; row < column.size(); ++row) {
        ASSERT_EQ(column[row], *parseNumber(expected.rows[row][0]));
    }
    const auto first = std::find_if(expected.rows.begin(), expected.rows.end(),
                                    [](const std::array<std::string, 3>& row) { return row[2] == "n/a"; });
    const auto refused = table.column(2);
    ASSERT_FALSE(refused);
    const int line = expected.lines[static_cast<std::size_t>(first - expected.rows.begin())];
    EXPECT_NE(refused.error().text().find("line " + std::to_string(line) + ","), std::string::npos)
        << refused.error().text();
}

TEST(ColumnTable, BoundsAllPartsTogether) {
    const LongText expected = longText();
    const std::size_t cells = 3 * expected.rows.size();
    EXPECT_EQ(codeOf(expected.text, {.mostBytes = 1u << 23, .mostCells = cells}), "");
    EXPECT_EQ(codeOf(expected.text, {.mostBytes = 1u << 23, .mostCells = cells - 1}), "import.too-large");
}

TEST(ColumnTable, NamesTheLineAndTheCellThatIsNoNumber) {
    const ColumnTable table = good("x,y\n1,2\n\n3,high\n");
    const auto column = table.column(1);
    ASSERT_FALSE(column);
    EXPECT_EQ(column.error().code, "fit.not-a-number");
    EXPECT_NE(column.error().text().find("line 4, cell 2: \"high\""), std::string::npos) << column.error().text();
    EXPECT_EQ(table.find("z").error().code, "fit.column-missing");
    EXPECT_EQ(*table.find("y"), 1u);
}

TEST(ColumnTable, RefusesWhatIsNoTable) {
    EXPECT_EQ(codeOf(""), "import.empty");
    EXPECT_EQ(codeOf(" \n\t\n"), "import.empty");
    EXPECT_EQ(codeOf("\"\""), "import.empty");
    EXPECT_EQ(codeOf("\"\"\n\"\n\"\n"), "import.empty");
    EXPECT_EQ(codeOf("x,y\n1,\"2\n"), "import.quote-open");
    EXPECT_EQ(codeOf(std::string("x,y\n1,\x01\n")), "import.binary");
    EXPECT_EQ(codeOf(std::string("x,y\n1,2\0\n", 9)), "import.binary");
    EXPECT_EQ(codeOf("x,y\n1,2\n", {.mostBytes = 4, .mostCells = 100}), "import.too-large");
    std::string many = "x,y\n";
    for (int row = 0; row < 3000; ++row) {
        many += "1,2\n";
    }
    EXPECT_EQ(codeOf(many, {.mostBytes = 1u << 20, .mostCells = 4000}), "import.too-large");
}

/// The numbers under two headings, or the sentence that refuses them.
std::string numbersUnder(const std::string& x, const std::string& y, const std::string& text) {
    const auto table = read(text, kLimits, {x, y});
    if (!table) {
        return table.error().text();
    }
    std::string out;
    for (const std::string& heading : {x, y}) {
        const auto index = table->find(heading);
        const auto column = index ? table->column(*index) : Result<std::vector<double>>(tl::unexpected(index.error()));
        if (!column) {
            return column.error().text();
        }
        for (const double value : *column) {
            out += (out.empty() || out.ends_with('|') ? "" : " ") + formatNumber(value);
        }
        out += heading == x ? "|" : "";
    }
    return out;
}

struct OddTable {
    const char* name;
    const char* text;
    const char* numbers;
};

class OddTables : public testing::TestWithParam<OddTable> {};

TEST_P(OddTables, AreReadAsTheyAreMeant) {
    EXPECT_EQ(numbersUnder("x", "y", GetParam().text), GetParam().numbers) << GetParam().name;
}

// Each line as instruments and scripts write it: common practice.
INSTANTIATE_TEST_SUITE_P(
    All, OddTables,
    testing::Values(
        OddTable{"comments", "# made by a script, today\n// twice\nx,y\n1,2\n# 9,9\n// and, more\n3,4\n#end\n",
                 "1 3|2 4"},
        OddTable{"comments and quotes", "# a \"fine\" day\n\"x\",\"y\"\n1,2\n# 9,9\n3,4\n", "1 3|2 4"},
        OddTable{"headings in a comment", "# x,y\n1,2\n3,4\n", "1 3|2 4"},
        OddTable{"headings of a script, blanks", "# x y\n1.5 2\n3 4\n", "1.5 3|2 4"},
        OddTable{"a heading # is none", "#,x,y\n1,1,2\n2,3,4\n", "1 3|2 4"},
        OddTable{"a sample #1 is none", "name,x,y\n#1,1,2\n#2,3,4\n", "1 3|2 4"},
        OddTable{"metadata above", "Instrument,A\nGain,100\nDate,2026-11-28,,\n\nname,x,y\np0,1,2\np1,3,4\n",
                 "1 3|2 4"},
        OddTable{"metadata as wide", "Gain,100\nMode,\"a, b\"\n\nx,y\n1,2\n3,4\n", "1 3|2 4"},
        OddTable{"a block of remarks", "---\nby: x, y\nx,y\n---\nx,y\n1,2\n3,4\n", "1 3|2 4"},
        OddTable{"blanks, decimal comma", "x  y\n1,5 2,25\n 3,0   4,0\n", "1.5 3|2.25 4"},
        OddTable{"blanks, decimal point", "x y\n1.5 2.25\n3e1 -4\n", "1.5 30|2.25 -4"},
        OddTable{"comma and blank is comma", "x, y\n1, 2\n3, 4\n", "1 3|2 4"},
        OddTable{"apostrophes", "x;y\n1'234.50;2\n12'345'678;4\n", "1234.5 12345678|2 4"},
        OddTable{"points for thousands", "x;y\n1.234,50;2,5\n1.234.567;4\n", "1234.5 1234567|2.5 4"},
        OddTable{"commas for thousands", "x,y\n\"1,234.50\",2.5\n\"1,234,567\",4\n", "1234.5 1234567|2.5 4"},
        OddTable{"blanks for thousands", "x;y\n1 234,50;2,5\n12 345;4\n", "1234.5 12345|2.5 4"},
        OddTable{"narrow blanks for thousands", "x;y\n1\u202f234,50;2,5\n12\u00a0345;4\n", "1234.5 12345|2.5 4"},
        OddTable{"inches", "x,y,tube\n1,2,12\"\n3,4,5\" long\n", "1 3|2 4"},
        OddTable{"backslash before quotes", "name,x,y\n\"5\\\" tube, long\",1,2\nb,3,4\n", "1 3|2 4"},
        OddTable{"a path ends in a backslash", "name,x,y\n\"C:\\data\\\",1,2\nb,3,4\n", "1 3|2 4"}));

TEST(ColumnTable, RefusesWhatItCannotTellApart) {
    const auto expectSays = [](const std::string& words, const std::string& said) {
        EXPECT_NE(said.find(words), std::string::npos) << said;
    };
    expectSays("several columns \"x\"", numbersUnder("x", "y", "x,y,x\n1,2,3\n"));
    expectSays("line 5 holds no number in any of its cells (\"x\"); a second table may begin there",
               numbersUnder("x", "y", "x,y\n1,2\n3,4\n\nx,z\n5,6\n"));
    expectSays("\"1,234\" may be written with a mark for thousands",
               numbersUnder("x", "y", "x,y\n\"1,234\",2\n1.5,2\n"));
    expectSays("there are: a, b", numbersUnder("x", "y", "a,b\n1,2\n"));
    expectSays("there are: a, b", numbersUnder("x", "y", "a;b\nlow;high\n")); // words show their separator too
    expectSays("holds a character that is not", numbersUnder("x", "y",
                                                             "\xC2\xB0"
                                                             "C,x,y\n\xB0,1,2\n"));
    expectSays("opened and not closed in data.csv, on line 2", numbersUnder("x", "y", "x,y\n1,\"2\n3,4\n"));
}

TEST(ColumnTable, NamesTheLineOfHeadingsBelowMetadata) {
    const auto table = read("Gain,100\n\nx,y\n1,2\n3,4,5\n", kLimits, {"x", "y"});
    ASSERT_FALSE(table);
    EXPECT_NE(table.error().text().find("line 5, cell 3: \"5\" stands under no heading; line 3 has 2"),
              std::string::npos)
        << table.error().text();
}

// Cut at every length: a table or an Error, never a crash, and never a number that the text does not hold.
TEST(ColumnTable, SurvivesBeingCutAtEveryLength) {
    const std::string text = "x,y,\"a, b\"\r\n1.25,-3e2,\"p\"\"q\"\r\n\r\n2,\"4\",r\r\n";
    for (std::size_t length = 0; length <= text.size(); ++length) {
        const auto table = read(text.substr(0, length));
        for (std::size_t row = 0; table && row < table->rowCount(); ++row) {
            for (std::size_t column = 0; column < table->headings().size(); ++column) {
                const auto number = table->number(row, column);
                EXPECT_TRUE(!number || std::isfinite(*number));
            }
        }
    }
}

// Lines longer than what is looked at to find the notation, and more columns than rows.
TEST(ColumnTable, ReadsAndBoundsLinesOfAnyLength) {
    const auto wide = [](std::size_t columns, int rows) {
        std::string text;
        for (std::size_t k = 0; k < columns; ++k) {
            text += (k == 0 ? "c" : ",c") + std::to_string(k);
        }
        for (int row = 0; row < rows; ++row) {
            for (std::size_t k = 0; k < columns; ++k) {
                text += (k == 0 ? "\n" : ",") + std::to_string(row + 1);
            }
        }
        return text;
    };
    const ColumnTable headingsOnly = good(wide(10'000, 0)); // one line of 59 kB
    EXPECT_EQ(headingsOnly.headings().size(), 10'000u);
    EXPECT_EQ(headingsOnly.rowCount(), 0u);
    const ColumnTable table = good(wide(10'000, 3));
    ASSERT_EQ(table.rowCount(), 3u);
    EXPECT_EQ(*table.number(2, 9'999), 3);
    EXPECT_EQ(*table.column(0), (std::vector<double>{1, 2, 3}));
    EXPECT_EQ(codeOf(wide(20'000, 1)), "import.too-large");
    EXPECT_EQ(codeOf(std::string(40'000, 'x')), ""); // one heading and nothing below
    std::string many = wide(5'000, 0);               // wide headings over very many short lines
    for (int row = 0; row < 50'000; ++row) {
        many += "\n1";
    }
    EXPECT_EQ(codeOf(many), "import.too-large");
}

class Cancelling : public Progress {
public:
    void report(double /*fraction*/) override {}
    bool cancelled() const override { return true; }
};

TEST(ColumnTable, StopsWhenCancelled) {
    std::istringstream stream("x,y\n1,2\n");
    Cancelling progress;
    const auto table = ColumnTable::read(stream, "data.csv", progress, kLimits);
    ASSERT_FALSE(table);
    EXPECT_EQ(table.error().code, "import.cancelled");
}

} // namespace
} // namespace nuvat
