// What leaves Nuvat as CSV and JSON is what the evaluation holds, to the last digit.
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/formats/column_table.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/session.h"
#include "support/reference.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <sstream>

namespace nuvat {
namespace {

ColumnTable tableOf(const std::string& csv) {
    std::istringstream stream(csv);
    NoProgress progress;
    auto table = ColumnTable::read(stream, "results", progress, {});
    EXPECT_TRUE(table) << (table ? "" : table.error().text());
    return table ? std::move(*table) : ColumnTable();
}

std::size_t columnOf(const ColumnTable& table, const std::string& start) {
    const auto& headings = table.headings();
    const auto found = std::find_if(headings.begin(), headings.end(),
                                    [&](const std::string& heading) { return heading.starts_with(start); });
    EXPECT_NE(found, headings.end()) << start;
    return static_cast<std::size_t>(found - headings.begin());
}

/// The sample batch with one unknown beyond the curve and one excluded well.
Batch uneven() {
    Batch batch = test::sampleDocument().batch();
    for (const int column : {2, 3}) {
        test::setValue(batch, {2, column}, 9.0); // U01
    }
    batch.exclusions[{3, 2}] = {"bubble", 1}; // one replicate of U02
    return batch;
}

TEST(ResultsCsv, HoldsEveryNumberOfTheEvaluation) {
    const Batch batch = uneven();
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const ColumnTable table = tableOf(resultsCsv(batch, evaluation));
    ASSERT_EQ(table.rowCount(), evaluation.results.size());
    const std::size_t place = columnOf(table, "place");
    const std::size_t used = columnOf(table, "used replicates");
    const std::size_t response = columnOf(table, "response");
    const std::size_t readOff = columnOf(table, "read-off");
    const std::size_t dilution = columnOf(table, "dilution");
    const std::size_t result = columnOf(table, "result");
    const std::size_t low = columnOf(table, "95 % low");
    const std::size_t high = columnOf(table, "95 % high");
    const std::size_t status = columnOf(table, "status");
    for (std::size_t row = 0; row < table.rowCount(); ++row) {
        const SampleResult& want = evaluation.results[row];
        EXPECT_EQ(table.cell(row, place), shortName(batch, want.group));
        EXPECT_EQ(*table.number(row, used), static_cast<double>(want.response.n));
        EXPECT_EQ(table.cell(row, status), name(want.status));
        const auto expectCell = [&](std::size_t column, const std::optional<double>& value) {
            if (value) {
                EXPECT_EQ(*table.number(row, column), *value) << table.cell(row, place);
            } else {
                EXPECT_EQ(table.cell(row, column), "") << table.cell(row, place);
            }
        };
        expectCell(response, want.response.mean);
        expectCell(readOff, want.readOff.x);
        expectCell(result, want.result);
        expectCell(low, want.low);
        expectCell(high, want.high);
        if (want.group.role == Role::Unknown) {
            EXPECT_EQ(*table.number(row, dilution), want.dilution);
        }
    }
}

TEST(ResultsCsv, OfWhatIsBeyondTheCurveHasNoNumber) {
    const Batch batch = uneven();
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const SampleResult* beyond = evaluation.result({Role::Unknown, 1});
    ASSERT_NE(beyond, nullptr);
    EXPECT_EQ(beyond->status, ResultStatus::BelowCurve); // a falling curve: more response is less than nothing
    const ColumnTable table = tableOf(resultsCsv(batch, evaluation));
    for (std::size_t row = 0; row < table.rowCount(); ++row) {
        if (table.cell(row, 0) == "U01") {
            EXPECT_EQ(table.cell(row, columnOf(table, "result")), "");
            EXPECT_EQ(table.cell(row, columnOf(table, "status")), "below-curve");
        }
    }
}

TEST(ResultsCsv, OfSeveralAnalytesHasATableForEach) {
    const Batch batch = test::withMethod(test::sampleDocument().batch(), [](Method& method) {
        method.analytes.push_back(method.analytes.front());
        method.analytes.back().name = "Second";
        method.analytes.back().unit = "mg/L";
    });
    const std::string csv = resultsCsv(batch, evaluate(batch));
    EXPECT_NE(csv.find("\n\nSecond\n"), std::string::npos) << csv.substr(0, 400);
    EXPECT_NE(csv.find("(mg/L)"), std::string::npos);
}

TEST(EvaluationJson, HoldsEveryNumberOfTheEvaluation) {
    const Batch batch = uneven();
    const Evaluation evaluation = evaluate(batch);
    const AnalyteEvaluation& analyte = evaluation.analytes.front();
    const auto json = nlohmann::json::parse(evaluationJson(batch, evaluation));
    const auto& fit = json["fit"];
    EXPECT_EQ(fit["status"], "ok");
    for (std::size_t k = 0; k < analyte.fit.size(); ++k) {
        EXPECT_EQ(fit["parameters"][analyte.fit.parameterNames[k]].get<double>(), analyte.fit.parameters[k]);
        EXPECT_EQ(fit["se"][analyte.fit.parameterNames[k]].get<double>(), analyte.fit.se[k]);
        for (std::size_t j = 0; j < analyte.fit.size(); ++j) {
            EXPECT_EQ(fit["covariance"][k][j].get<double>(), analyte.fit.covariance[k * analyte.fit.size() + j]);
        }
    }
    ASSERT_EQ(json["results"].size(), analyte.results.size());
    for (std::size_t i = 0; i < analyte.results.size(); ++i) {
        const auto& one = json["results"][i];
        const SampleResult& want = analyte.results[i];
        EXPECT_EQ(one["status"], name(want.status));
        EXPECT_EQ(one["result"].is_null(), !want.result);
        if (want.result) {
            EXPECT_EQ(one["result"].get<double>(), *want.result);
        }
    }
    EXPECT_EQ(json["verdict"], name(evaluation.verdict));
    ASSERT_EQ(json["analytes"].size(), 1u);
    EXPECT_EQ(json["analytes"][0]["fit"], fit);
}

TEST(EvaluationJson, OfABatchWithoutACurveSaysWhy) {
    Batch batch = test::sampleDocument().batch();
    for (auto& [number, level] : batch.levels) {
        level.concentration.reset();
    }
    const auto json = nlohmann::json::parse(evaluationJson(batch, evaluate(batch)));
    EXPECT_EQ(json["fit"]["status"], "not-enough-data");
    EXPECT_FALSE(json["fit"]["message"].get<std::string>().empty());
    EXPECT_TRUE(json["fit"]["parameters"].empty());
    for (const auto& result : json["results"]) {
        EXPECT_TRUE(result["result"].is_null());
    }
}

TEST(WriteText, IsCompleteOrNotThere) {
    const test::TemporaryFolder folder;
    ASSERT_TRUE(writeText(folder / "a.csv", "one\n"));
    EXPECT_EQ(test::contentOf(folder / "a.csv"), "one\n");
    ASSERT_TRUE(writeText(folder / "a.csv", "two\n")); // replaces
    EXPECT_EQ(test::contentOf(folder / "a.csv"), "two\n");
    const auto failed = writeText(folder / "missing" / "a.csv", "three\n");
    ASSERT_FALSE(failed);
    EXPECT_EQ(failed.error().code, "export.cannot-write");
    std::filesystem::create_directory(folder / "taken");
    EXPECT_FALSE(writeText(folder / "taken", "four\n"));
    std::size_t files = 0;
    for ([[maybe_unused]] const auto& entry : std::filesystem::directory_iterator(folder.path())) {
        ++files;
    }
    EXPECT_EQ(files, 2u); // no part of a file stays behind
}

TEST(WriteXlsx, IsAWorkbookWithTheSheetsOfEveryAnalyte) {
    const test::TemporaryFolder folder;
    const Batch batch = uneven();
    ASSERT_TRUE(writeXlsx(batch, evaluate(batch), folder / "one.xlsx"));
    const std::string one = test::contentOf(folder / "one.xlsx");
    EXPECT_TRUE(one.starts_with("PK\x03\x04"));
    EXPECT_NE(one.find("xl/worksheets/sheet1.xml"), std::string::npos); // names of a zip stand uncompressed
    const Batch two = test::withMethod(batch, [](Method& method) {
        method.analytes.push_back(method.analytes.front());
        method.analytes.back().name = "Second";
    });
    ASSERT_TRUE(writeXlsx(two, evaluate(two), folder / "two.xlsx"));
    const auto sheets = [](const std::string& zip) {
        std::size_t count = 0;
        while (zip.find("xl/worksheets/sheet" + std::to_string(count + 1) + ".xml") != std::string::npos) {
            ++count;
        }
        return count;
    };
    // Three sheets an analyte and one for all of them.
    EXPECT_EQ(sheets(one), 4u);
    EXPECT_EQ(sheets(test::contentOf(folder / "two.xlsx")), 7u);
    EXPECT_EQ(writeXlsx(batch, evaluate(batch), "/no/such/folder/r.xlsx").error().code, "export.cannot-write");
}

TEST(Demos, AreMadeAndAccepted) {
    for (const Demo& demo : demos()) {
        const auto made = demoBatch(demo.name, {});
        ASSERT_TRUE(made) << demo.name << ": " << made.error().text();
        const Batch& batch = made->document->batch();
        const Evaluation evaluation = evaluate(batch);
        EXPECT_TRUE(evaluation.analyte().problems.empty()) << evaluation.analyte().problems[0].message;
        EXPECT_TRUE(evaluation.analyte().fit.isUsable()) << demo.name;
        EXPECT_EQ(batch.info.laboratory, "Alderbrook laboratory");
    }
    EXPECT_EQ(demoBatch("nothing", {}).error().code, "demo.unknown");
}

// The truth is in demo/polyphenols/truth.csv, from which the readings were made.
TEST(Demos, PolyphenolsGiveBackTheTruth) {
    const auto made = demoBatch("polyphenols", {});
    ASSERT_TRUE(made);
    const Evaluation evaluation = evaluate(made->document->batch());
    std::ifstream truth(std::filesystem::path(NUVAT_DEMO_DIR) / "polyphenols" / "truth.csv");
    std::string line;
    std::getline(truth, line);
    int held = 0;
    int counted = 0;
    while (std::getline(truth, line)) {
        const int number = std::stoi(line.substr(1, line.find(',') - 1));
        const double wanted = std::stod(line.substr(line.find(',') + 1));
        const SampleResult* result = evaluation.analyte().result({Role::Unknown, number});
        ASSERT_NE(result, nullptr) << line;
        if (result->result) {
            held += *result->low <= wanted && wanted <= *result->high ? 1 : 0;
            ++counted;
        }
    }
    EXPECT_GT(counted, 440);
    EXPECT_GT(held, counted * 92 / 100);
    EXPECT_LT(held, counted * 99 / 100);
}

// A curve a plate: tables, sheets and keys say which.
TEST(Export, OfACurveForEachPlateSaysWhich) {
    const test::TemporaryFolder folder;
    const auto made = demoBatch("polyphenols", {});
    ASSERT_TRUE(made);
    Batch batch = made->document->batch();
    batch.method.analyte().source.curve = CurveOf::Carrier;
    const Evaluation evaluation = evaluate(batch);
    ASSERT_EQ(evaluation.analytes.size(), 3u);
    const std::string csv = resultsCsv(batch, evaluation);
    EXPECT_NE(csv.find("\"Polyphenols, Plate 2\"\n"), std::string::npos) << csv.substr(0, 200);
    EXPECT_TRUE(writeXlsx(batch, evaluation, folder / "r.xlsx"));
    const std::string json = evaluationJson(batch, evaluation);
    EXPECT_NE(json.find("\"carrier\": 3"), std::string::npos);
}

} // namespace
} // namespace nuvat
