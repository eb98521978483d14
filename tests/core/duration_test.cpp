#include "nuvat/core/base/duration.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

TEST(Durations, AreNumbersWithUnitsOrClocks) {
    EXPECT_EQ(parseDuration("60 s"), 60);
    EXPECT_EQ(parseDuration(" 1.5min "), 90);
    EXPECT_EQ(parseDuration("1,5 Min"), 90);
    EXPECT_EQ(parseDuration("2 h"), 7200);
    EXPECT_EQ(parseDuration("500 ms"), 0.5);
    EXPECT_EQ(parseDuration("0:05:30"), 330);
    EXPECT_EQ(parseDuration("05:30"), 330);
    EXPECT_EQ(parseClock("1:00:00"), 3600);
    for (const char* other : {"", "60", "s", "450 nm", "1:2:3:4", ":30", "-1:30", "1: 30 x", "a:b"}) {
        EXPECT_FALSE(parseDuration(other)) << other;
    }
    EXPECT_FALSE(parseClock("60"));
    EXPECT_EQ(secondsIn("D"), 86400);
    EXPECT_FALSE(secondsIn("x"));
}

} // namespace
} // namespace nuvat
