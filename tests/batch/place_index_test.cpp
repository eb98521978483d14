#include "nuvat/batch/place_index.h"

#include "nuvat/batch/command.h"
#include "nuvat/batch/evaluation.h"
#include "support/sample_batch.h"

#include <gtest/gtest.h>
#include <random>
#include <type_traits>

namespace nuvat {
namespace {

/// The slow, obvious way: a look at every place.
std::vector<Place> scan(const Batch& batch, Assignment group) {
    std::vector<Place> out;
    for (const auto& [place, assignment] : batch.places) {
        if (assignment == group && batch.holds(place)) {
            out.push_back(place);
        }
    }
    return out;
}

// {row, column} is a place of carrier 1 wherever it is written, and carriers come before rows.
static_assert(Place{2, 3}.carrier == 1 && Place{2, 3}.row == 2 && Place{2, 3}.column == 3);
static_assert(Place{7, 11} < Place{0, 0, 2});
static_assert(!std::is_aggregate_v<Place>);

TEST(Places, OfACarrierThatIsNotThereAreNowhere) {
    const Batch batch = test::sampleDocument().batch();
    EXPECT_TRUE(batch.holds({0, 0}));
    EXPECT_FALSE(batch.holds({0, 0, 2}));
    EXPECT_EQ(batch.reading(2, ""), nullptr);
    EXPECT_THROW((void)evaluateAnalyte(batch).at({0, 0, 2}), std::out_of_range);
    EXPECT_FALSE(assignRole(batch, {{0, 0, 2}}, Role::Standard, 1, Direction::Across));
    EXPECT_TRUE(excludePlaces(batch, {{0, 0, 2}}, "bubble", 1)->changes.empty());
}

TEST(PlaceIndex, FindsWhatAScanFinds) {
    std::mt19937 random(3);
    for (int round = 0; round < 100; ++round) {
        Batch batch;
        batch.carriers.at(1).rows = 1 + static_cast<int>(random() % 12);
        batch.carriers.at(1).columns = 1 + static_cast<int>(random() % 12);
        for (unsigned i = 0; i < random() % 100; ++i) {
            const Role role = static_cast<Role>(random() % 5);
            batch.places[{static_cast<int>(random() % 12), static_cast<int>(random() % 12)}] = {
                role, role == Role::Blank ? 0 : 1 + static_cast<int>(random() % 9)};
        }
        const PlaceIndex index(batch);
        EXPECT_TRUE(std::is_sorted(index.groups().begin(), index.groups().end()));
        for (const Role role : {Role::Standard, Role::Blank, Role::Qc, Role::Unknown}) {
            std::vector<int> numbers;
            for (int number = 0; number < 11; ++number) {
                const auto members = index.members({role, number});
                EXPECT_EQ(std::vector<Place>(members.begin(), members.end()), scan(batch, {role, number}));
                if (std::any_of(batch.places.begin(), batch.places.end(), [&](const auto& entry) {
                        return entry.second == Assignment{role, number};
                    })) {
                    numbers.push_back(number);
                }
            }
            EXPECT_EQ(index.numbersOf(role), numbers);
        }
        EXPECT_TRUE(index.groupsOf(Role::Empty).empty());
    }
}

TEST(PlaceIndex, IsSharedByAllAnalytes) {
    Batch batch = test::sampleDocument().batch();
    batch.method.analytes.push_back(batch.method.analytes.front());
    const Evaluation evaluation = evaluate(batch);
    ASSERT_EQ(evaluation.analytes.size(), 2u);
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        EXPECT_EQ(analyte.index, evaluation.index);
    }
    EXPECT_EQ(evaluation.index->numbersOf(Role::Unknown), (std::vector<int>{1, 2, 3, 4, 5, 6}));
}

TEST(PlaceIndex, GroupsAndResultsAreFoundByTheirName) {
    const Evaluation evaluation = evaluate(test::sampleDocument().batch());
    const AnalyteEvaluation& analyte = evaluation.analyte();
    for (const GroupValue& group : analyte.groups) {
        EXPECT_EQ(analyte.group(group.group), &group);
    }
    for (const SampleResult& result : analyte.results) {
        EXPECT_EQ(analyte.result(result.group), &result);
    }
    EXPECT_EQ(analyte.group({Role::Unknown, 99}), nullptr);
    EXPECT_EQ(analyte.result({Role::Standard, 1}), nullptr);
}

} // namespace
} // namespace nuvat
