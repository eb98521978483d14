// ANDI chromatography: files made here by the layout that the netCDF classic format specification prescribes.
#include "nuvat/formats/andi.h"

#include <algorithm>
#include <bit>
#include <filesystem>
#include <fstream>
#include <gtest/gtest.h>
#include <numeric>

namespace nuvat {
namespace {

/// Writes a classic netCDF file value by value.
class Bytes {
public:
    Bytes& word(std::uint32_t value) {
        for (int shift = 24; shift >= 0; shift -= 8) {
            m_bytes.push_back(static_cast<char>(value >> shift));
        }
        return *this;
    }
    Bytes& text(const std::string& value) {
        word(static_cast<std::uint32_t>(value.size()));
        m_bytes += value;
        return pad();
    }
    Bytes& raw(const std::string& value) {
        m_bytes += value;
        return *this;
    }
    Bytes& real(float value) { return word(std::bit_cast<std::uint32_t>(value)); }
    Bytes& pad() {
        m_bytes.resize((m_bytes.size() + 3) / 4 * 4, '\0');
        return *this;
    }
    std::size_t size() const { return m_bytes.size(); }
    const std::string& bytes() const { return m_bytes; }

private:
    std::string m_bytes;
};

constexpr std::uint32_t kChar = 2, kShort = 3, kFloat = 5;

struct Options {
    float interval = 0.5f;
    std::string unit = "Seconds";
    std::string name = "ordinate_values";
    bool isUniform = true;
    std::uint32_t points = 4;
    std::uint32_t shift = 0; ///< of the begin of the ordinates
};

/// Four points 1, 2, absent, 4 as shorts with a scale of 0.25.
std::string chromatogram(const Options& options = {}) {
    const auto build = [&](std::uint32_t dataBegin) {
        Bytes out;
        out.raw(std::string("CDF\x01", 4)).word(0);
        out.word(0x0A).word(1).text("point_number").word(options.points);
        out.word(0x0C).word(3);
        out.text("retention_unit").word(kChar).text(options.unit);
        out.text("sample_name").word(kChar).text("spike 3");
        out.text("injection_date_time_stamp").word(kChar).text("20260230120000+0100");
        out.word(0x0B).word(3);
        const auto variable = [&](const std::string& name, std::uint32_t type, bool hasDimension, std::uint32_t begin,
                                  std::uint32_t size) {
            out.text(name).word(hasDimension ? 1 : 0);
            if (hasDimension) {
                out.word(0);
            }
            if (name == options.name) {
                out.word(0x0C).word(2);
                out.text("uniform_sampling_flag").word(kChar).text(options.isUniform ? "Y" : "N");
                out.text("scale_factor").word(kFloat).word(1).real(0.25f);
            } else {
                out.word(0).word(0);
            }
            out.word(type).word(size).word(begin);
        };
        variable("actual_sampling_interval", kFloat, false, dataBegin, 4);
        variable(options.name, kShort, true, dataBegin + 4 + options.shift, 8);
        variable("raw_data_retention", kFloat, true, dataBegin + 12, 16);
        return out;
    };
    const auto begin = static_cast<std::uint32_t>(build(0).size());
    Bytes out = build(begin);
    out.real(options.interval);
    for (const int value : {4, 8, -9999, 16}) {
        out.raw({static_cast<char>(value >> 8), static_cast<char>(value)});
    }
    for (const float time : {0.1f, 0.2f, 0.4f, 0.8f}) {
        out.real(time);
    }
    return out.bytes();
}

TEST(Andi, AUniformChromatogram) {
    const auto content = readAndi(chromatogram());
    ASSERT_TRUE(content) << content.error().message;
    ASSERT_EQ(content->traces.size(), 1u);
    const FileTrace& trace = content->traces[0];
    EXPECT_EQ(trace.place, "spike 3");
    EXPECT_EQ(trace.xAxis.unit, "Seconds");
    EXPECT_EQ(trace.x, (std::vector<double>{0, 0.5, 1, 1.5}));
    EXPECT_EQ(trace.y, (std::vector<double>{1, 2, 0, 4}));
    EXPECT_EQ(trace.missing, (std::vector<std::size_t>{2}));
    ASSERT_EQ(content->warnings.size(), 1u); // 30 February
    EXPECT_NE(content->warnings[0].find("20260230"), std::string::npos);
}

TEST(Andi, TimesOfTheirOwn) {
    Options options;
    options.isUniform = false;
    options.interval = -9999;
    const auto content = readAndi(chromatogram(options));
    ASSERT_TRUE(content) << content.error().message;
    EXPECT_FLOAT_EQ(static_cast<float>(content->traces[0].x[3]), 0.8f);
}

TEST(Andi, SaysWhatIsWrong) {
    const auto code = [](const std::string& bytes) {
        const auto content = readAndi(bytes);
        return content ? std::string("read") : content.error().code;
    };
    EXPECT_EQ(code(chromatogram({.interval = 0})), "andi.time-axis");
    EXPECT_EQ(code(chromatogram({.interval = -1})), "andi.time-axis");
    EXPECT_EQ(code(chromatogram({.name = "temperature"})), "andi.not-a-chromatogram");
    EXPECT_EQ(code(chromatogram({.points = 0x7FFFFFFF})), "netcdf.format");
    EXPECT_EQ(code(chromatogram({.points = 0x80000000})), "netcdf.format");
    EXPECT_EQ(code(chromatogram({.shift = 1000})), "netcdf.format");
    EXPECT_EQ(code("CDF\x09"), "netcdf.format");
    const auto unknown = readAndi(chromatogram({.unit = "fortnights"}));
    ASSERT_TRUE(unknown);
    EXPECT_EQ(unknown->warnings.size(), 2u);
}

// Cut anywhere, it is refused or says what is missing; it never crashes and never invents points.
TEST(Andi, CutAtEveryLength) {
    const std::string whole = chromatogram();
    for (std::size_t size = 0; size < whole.size(); ++size) {
        const auto content = readAndi(whole.substr(0, size));
        if (content) {
            EXPECT_EQ(content->traces[0].y, (std::vector<double>{1, 2, 0, 4})) << size;
        } else {
            EXPECT_FALSE(content.error().message.empty());
        }
    }
}

// fixtures/andi/ms_41_scans.cdf: 41 scans, masses as shorts times 0.05, intensities as integers times 2, the totals
// absent, scan 21 empty with the index -9999. Derived from a test file of a library under the MIT licence; the sums by
// hand from it.
TEST(AndiSpectra, GivesTheTotalOfEachScanAndSelectedIons) {
    std::ifstream file(std::filesystem::path(NUVAT_TEST_DIR) / "fixtures" / "andi" / "ms_41_scans.cdf",
                       std::ios::binary);
    const std::string bytes(std::istreambuf_iterator<char>(file), {});
    const auto read = readAndi(bytes);
    ASSERT_TRUE(read) << read.error().text();
    EXPECT_EQ(read->format, "ANDI mass spectrometry");
    const FileTrace& total = read->traces.front();
    EXPECT_EQ(total.name, "total intensity");
    ASSERT_EQ(total.y.size(), 41u);
    EXPECT_DOUBLE_EQ(total.x.front(), 5.25);
    EXPECT_NEAR(total.x.back(), 28.251, 1e-12);
    EXPECT_EQ(total.y.front(), 6268);
    EXPECT_EQ(total.y.at(20), 0);
    EXPECT_EQ(std::accumulate(total.y.begin(), total.y.end(), 0.0), 242098);
    double ions = 0;
    std::size_t points = 0;
    for (std::size_t i = 1; i < read->traces.size(); ++i) {
        const FileTrace& ion = read->traces[i];
        ions += std::accumulate(ion.y.begin(), ion.y.end(), 0.0);
        points += ion.x.size();
        EXPECT_TRUE(std::ranges::is_sorted(ion.x)) << ion.name;
    }
    EXPECT_NE(std::ranges::find(read->traces, "m/z 16", &FileTrace::name), read->traces.end());
    EXPECT_EQ(points, 440u) << "every value is in one of them";
    EXPECT_EQ(ions, 242098);
    // Cut within its values it says so.
    EXPECT_FALSE(readAndi(bytes.substr(0, bytes.size() - 200)));
}

} // namespace
} // namespace nuvat
