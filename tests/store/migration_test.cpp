// Batches of every earlier schema: opened, undone to the beginning, redone to the end, compared; and with the digits
// that the version which wrote them gave.
#include "nuvat/store/batch_file.h"
#include "nuvat/workflow/export.h"
#include "support/reference.h"
#include "support/sample_batch.h"
#include "support/sqlite_file.h"

#include <cmath>
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace nuvat {
namespace {

using Json = nlohmann::json;

std::filesystem::path fixture(const std::string& name) {
    return std::filesystem::path(NUVAT_TEST_DIR) / "fixtures" / name;
}

class OldBatch : public ::testing::TestWithParam<const char*> {};

TEST_P(OldBatch, IsUndoneToTheBeginningAndRedoneToTheEnd) {
    const test::TemporaryFolder folder;
    const auto path = folder / "old.nuvat";
    std::filesystem::copy_file(fixture(std::string(GetParam()) + ".nuvat"), path);
    auto opened = BatchFile::open(path);
    ASSERT_TRUE(opened) << opened.error().text();
    const Batch asOpened = opened->state.batch;
    const std::size_t done = opened->state.done;
    EXPECT_GE(opened->state.commands.size(), 5u);
    Document document(opened->state);
    document.setJournal(std::move(opened->file));
    std::vector<Batch> back;
    while (document.canUndo()) {
        back.push_back(document.batch());
        ASSERT_TRUE(document.undo());
    }
    EXPECT_EQ(back.size(), done);
    while (!back.empty()) {
        ASSERT_TRUE(document.redo());
        EXPECT_EQ(document.batch(), back.back()) << back.size();
        back.pop_back();
    }
    EXPECT_EQ(document.batch(), asOpened);
    while (document.canRedo()) {
        ASSERT_TRUE(document.redo());
    }
    const Batch end = document.batch();
    document.setJournal(nullptr);
    const auto again = BatchFile::open(path);
    ASSERT_TRUE(again) << again.error().text();
    EXPECT_TRUE(again->notes.empty()) << again->notes.front();
    EXPECT_EQ(again->state.batch, end);
}

INSTANTIATE_TEST_SUITE_P(Schema, OldBatch,
                         ::testing::Values("demo-schema-1", "batch-schema-2", "batch-schema-3", "batch-schema-4",
                                           "reads-schema-4", "batch-schema-6", "demo-schema-7", "additions-schema-8",
                                           "dilutions-schema-9", "cuvettes-schema-10", "cuvettes-schema-11",
                                           "excluded-schema-12"),
                         [](const auto& one) {
                             std::string name = one.param;
                             std::replace(name.begin(), name.end(), '-', '_');
                             return name;
                         });

void expectSame(const Json& was, const Json& is, const std::string& where) {
    ASSERT_EQ(was.is_number(), is.is_number()) << where;
    if (was.is_number()) {
        EXPECT_NEAR(is.get<double>(), was.get<double>(), 1e-9 * std::abs(was.get<double>())) << where;
    } else if (was.is_object()) {
        for (const auto& [key, value] : was.items()) {
            ASSERT_TRUE(is.contains(key)) << where << "/" << key;
            expectSame(value, is.at(key), where + "/" + key);
        }
    } else if (was.is_array()) {
        ASSERT_EQ(was.size(), is.size()) << where;
        for (std::size_t i = 0; i < was.size(); ++i) {
            expectSame(was[i], is[i], where + "/" + std::to_string(i));
        }
    } else {
        EXPECT_EQ(was, is) << where;
    }
}

/// What an evaluation says of each sample. Of a batch without noise the rest is made of rounding errors.
Json resultsOf(const Json& evaluation) {
    Json out = Json::array();
    for (const Json& analyte : evaluation.at("analytes")) {
        for (const Json& result : analyte.at("results")) {
            Json kept;
            for (const char* key : {"place", "sample", "role", "response", "dilution", "status", "result", "nominal"}) {
                kept[key] = result.at(key);
            }
            out.push_back(std::move(kept));
        }
    }
    return out;
}

// The JSON beside each was written by the version of that schema: Nuvat 0.1.0 of 2026-11-28.
TEST(Migration, GivesTheSameDigits) {
    for (const std::string name : {"reads-schema-4", "batch-schema-6", "additions-schema-8", "dilutions-schema-9",
                                   "decisions-schema-10", "cuvettes-schema-11", "excluded-schema-12"}) {
        const auto opened = BatchFile::open(fixture(name + ".nuvat"), BatchFile::Access::Read);
        ASSERT_TRUE(opened) << opened.error().text();
        const Batch& batch = opened->state.batch;
        std::ifstream file(fixture(name + ".json"));
        const Json was = Json::parse(file);
        const Json is = Json::parse(evaluationJson(batch, evaluate(batch)));
        expectSame(resultsOf(was), resultsOf(is), name);
        if (name == "reads-schema-4") {
            expectSame(was, is, name);
        }
    }
}

// Its first plate had 8 × 12 wells, its second reading 16 × 24.
TEST(Migration, TakesTheSizeOfThePlateToItsCarrier) {
    const auto opened = BatchFile::open(fixture("reads-schema-4.nuvat"), BatchFile::Access::Read);
    ASSERT_TRUE(opened) << opened.error().text();
    EXPECT_EQ(opened->state.batch.carriers.at(1), (Carrier{CarrierKind::Plate, "", 16, 24}));
    Document document(opened->state);
    while (document.batch().readings.size() > 1) {
        ASSERT_TRUE(document.undo());
    }
    EXPECT_EQ(document.batch().carriers.at(1), (Carrier{CarrierKind::Plate, "", 8, 12}));
}

} // namespace
} // namespace nuvat
