// What a layout lacks is named before anything is read.
#include "nuvat/batch/layout_checks.h"
#include "nuvat/batch/place_index.h"
#include "support/sample_batch.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

LayoutCheck checkOf(const Batch& batch, const std::string& title) {
    for (const LayoutCheck& check : layoutChecks(batch, PlaceIndex(batch), 1)) {
        if (check.title == title) {
            return check;
        }
    }
    return {"no such check", "", Outcome::NotApplicable, ""};
}

/// Two wells a level from row A on, with concentrations 1, 2, 4 …
Batch planned(int levels) {
    Batch batch;
    batch.method.analyte().unit = "mg/L";
    for (int level = 1; level <= levels; ++level) {
        batch.places[{level - 1, 0}] = {Role::Standard, level};
        batch.places[{level - 1, 1}] = {Role::Standard, level};
        batch.levels[{level, 1}].concentration = 1 << (level - 1);
    }
    batch.places[{0, 2}] = {Role::Blank, 1};
    batch.places[{1, 2}] = {Role::Qc, 1};
    batch.places[{2, 2}] = {Role::Qc, 2};
    batch.qcs[{1, 1}].nominal = 3;
    batch.qcs[{2, 1}].nominal = 20;
    batch.places[{3, 2}] = {Role::Unknown, 1};
    return batch;
}

TEST(LayoutChecks, PassWhereNothingIsMissing) {
    const Batch batch = planned(6);
    for (const LayoutCheck& check : layoutChecks(batch, PlaceIndex(batch), 1)) {
        EXPECT_EQ(check.outcome, Outcome::Pass) << check.title;
        EXPECT_TRUE(check.advice.empty()) << check.title;
    }
    EXPECT_EQ(checkOf(batch, "QC at two levels").found, "3 and 20");
    EXPECT_EQ(checkOf(batch, "Every level replicated").found, "2");
}

TEST(LayoutChecks, NameWhatIsMissing) {
    const Batch nothing;
    EXPECT_EQ(checkOf(nothing, "At least 6 levels").outcome, Outcome::Fail);
    EXPECT_EQ(checkOf(nothing, "QC at two levels").found, "none");
    EXPECT_EQ(checkOf(nothing, "Unit set").outcome, Outcome::Review);
    EXPECT_EQ(checkOf(nothing, "Unknowns").outcome, Outcome::Review);

    Batch batch = planned(5); // enough for the model of four parameters, not for the criteria
    EXPECT_EQ(checkOf(batch, "At least 6 levels").outcome, Outcome::Review);
    batch.levels[{5, 1}].concentration = 8; // the same as level 4
    EXPECT_EQ(checkOf(batch, "At least 6 levels").found, "4");
    batch.levels.erase({2, 1});
    EXPECT_EQ(checkOf(batch, "Concentrations known").found, "not of S2");
    batch.places.erase({2, 1});
    EXPECT_EQ(checkOf(batch, "Every level replicated").found, "S3 once");
    batch.qcs[{2, 1}].nominal.reset();
    EXPECT_EQ(checkOf(batch, "QC at two levels").outcome, Outcome::Review);
}

TEST(LayoutChecks, AskForBlanksAndStandardsWhereTheMethodNeedsThem) {
    Batch batch = planned(6);
    batch.carriers[2] = Carrier{};
    batch.places[{0, 0, 2}] = {Role::Unknown, 2};
    batch.method.subtractsBlank = true;
    EXPECT_EQ(checkOf(batch, "Blank present").found, "none on Plate 2");
    EXPECT_EQ(checkOf(batch, "Standards on each plate").outcome, Outcome::NotApplicable);
    batch.method.analyte().source.curve = CurveOf::Carrier;
    EXPECT_EQ(checkOf(batch, "Standards on each plate").outcome, Outcome::Fail);
    batch.method.subtractsBlank = false;
    EXPECT_EQ(checkOf(batch, "Blank present").outcome, Outcome::NotApplicable);
    batch.method.analyte().source.curve = CurveOf::Kept;
    EXPECT_EQ(checkOf(batch, "At least 6 levels").outcome, Outcome::NotApplicable) << "no standards are needed";
}

} // namespace
} // namespace nuvat
