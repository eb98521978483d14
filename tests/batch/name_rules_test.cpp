// Roles by the names of runs. The usual rules are common practice.
#include "nuvat/batch/name_rules.h"

#include <gtest/gtest.h>
#include <tuple>

namespace nuvat {
namespace {

using Case = std::tuple<const char*, Role, const char*>;
class UsualNames : public ::testing::TestWithParam<Case> {};

TEST_P(UsualNames, SayARole) {
    const auto& [name, role, key] = GetParam();
    const auto found = roleOfName(usualNameRules(), name);
    ASSERT_TRUE(found) << name;
    EXPECT_EQ(found->role, role) << name;
    EXPECT_EQ(found->key, key) << name;
}

INSTANTIATE_TEST_SUITE_P(
    Names, UsualNames,
    ::testing::Values(Case{"Blank 1", Role::Blank, ""}, Case{"reagent blank", Role::Blank, ""},
                      Case{"Double blank", Role::DoubleBlank, ""}, Case{"STD 3", Role::Standard, "3"},
                      Case{"Std_0.5 mg/L", Role::Standard, "0.5"}, Case{"cal10 (2)", Role::Standard, "10"},
                      Case{"Standard 12 inj 2", Role::Standard, "12"}, Case{"QC low", Role::Qc, "qc low"},
                      Case{"Control high", Role::Qc, "control high"}, Case{"Mead, vat 3", Role::Unknown, "mead, vat 3"},
                      Case{"Mead rep 2", Role::Unknown, "mead"}, Case{"Mead_r2", Role::Unknown, "mead"},
                      Case{"Mead (2)", Role::Unknown, "mead"}, Case{"Perry 8", Role::Unknown, "perry 8"}));

TEST(NameRules, TakeTheFirstThatFitsAndNumbersAsAWhole) {
    const std::vector<NameRule> rules{{"P# *", Role::Standard}, {"*x", Role::Qc}};
    EXPECT_EQ(roleOfName(rules, "p12 a")->key, "12");
    EXPECT_EQ(roleOfName(rules, "P1 x")->role, Role::Standard); // both fit
    EXPECT_EQ(roleOfName(rules, "abcX")->role, Role::Qc);
    EXPECT_FALSE(roleOfName(rules, "P a"));
    EXPECT_FALSE(roleOfName(rules, "  "));
}

Batch listOf(const std::vector<std::string>& names) {
    Batch batch;
    batch.carriers[1] = {CarrierKind::RunList, "", static_cast<int>(names.size()), 1};
    for (std::size_t i = 0; i < names.size(); ++i) {
        batch.runs[{static_cast<int>(i), 0}].name = names[i];
    }
    return batch;
}

TEST(NameRules, CountStandardsByTheirNumbersAndShareReplicates) {
    Batch batch = listOf({"Blank", "STD 10", "STD 0.5", "STD 10", "QC low", "Mead", "Mead (2)", "Perry"});
    const auto command = rolesFromNames(batch, 1);
    ASSERT_TRUE(command) << command.error().text();
    applyChanges(batch, *command, false);
    EXPECT_EQ(batch.at({0, 0}), (Assignment{Role::Blank, 0}));
    EXPECT_EQ(batch.at({1, 0}), (Assignment{Role::Standard, 2}));
    EXPECT_EQ(batch.at({2, 0}), (Assignment{Role::Standard, 1}));
    EXPECT_EQ(batch.at({3, 0}), batch.at({1, 0}));
    EXPECT_EQ(batch.at({4, 0}), (Assignment{Role::Qc, 1}));
    EXPECT_EQ(batch.qcs.at({1}).name, "QC low");
    EXPECT_EQ(batch.at({5, 0}), (Assignment{Role::Unknown, 1}));
    EXPECT_EQ(batch.at({6, 0}), batch.at({5, 0}));
    EXPECT_EQ(batch.at({7, 0}), (Assignment{Role::Unknown, 2}));
    EXPECT_EQ(batch.samples.at(1).name, "Mead");
    EXPECT_EQ(batch.samples.at(2).name, "Perry");
    const auto again = rolesFromNames(batch, 1);
    ASSERT_FALSE(again);
    EXPECT_EQ(again.error().code, "review.no-names");
}

TEST(NameRules, OfTheMethodComeFirstAndRolesThatAreThereStay) {
    Batch batch = listOf({"a1", "a2", "b"});
    batch.method.nameRules = {{"a#", Role::Standard}};
    batch.places[{1, 0}] = {Role::Qc, 1};
    const auto command = rolesFromNames(batch, 1);
    ASSERT_TRUE(command);
    applyChanges(batch, *command, false);
    EXPECT_EQ(batch.at({0, 0}).role, Role::Standard);
    EXPECT_EQ(batch.at({1, 0}).role, Role::Qc);
    EXPECT_EQ(batch.at({2, 0}).role, Role::Empty); // no rule fits it
}

} // namespace
} // namespace nuvat
