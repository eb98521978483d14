// mzML written here by the schema of the Proteomics Standards Initiative, version 1.1.
#include "nuvat/formats/mzml.h"

#include <cstring>
#include <gtest/gtest.h>
#include <zlib.h>

namespace nuvat {
namespace {

std::string base64(const std::string& bytes) {
    constexpr const char* kDigits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        std::uint32_t bits = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            bits = (bits << 8) | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0u);
        }
        for (std::size_t k = 0; k < 4; ++k) {
            out += i + k > bytes.size() ? '=' : kDigits[(bits >> (18 - 6 * k)) & 63];
        }
    }
    return out;
}

template<class T> std::string bytesOf(const std::vector<T>& values) {
    std::string out(values.size() * sizeof(T), '\0');
    std::memcpy(out.data(), values.data(), out.size());
    return out;
}

std::string deflated(const std::string& bytes) {
    std::string out(compressBound(bytes.size()), '\0');
    uLongf size = out.size();
    compress(reinterpret_cast<Bytef*>(out.data()), &size, reinterpret_cast<const Bytef*>(bytes.data()), bytes.size());
    out.resize(size);
    return out;
}

std::string term(const std::string& accession, const std::string& unit = {}) {
    return "<cvParam cvRef=\"MS\" accession=\"" + accession + "\" name=\"not to be trusted\" unitName=\"" + unit +
           "\"/>";
}

std::string array(const std::string& terms, const std::string& bytes) {
    return "<binaryDataArray encodedLength=\"0\">" + terms + "<binary>" + base64(bytes) + "</binary></binaryDataArray>";
}

const std::string kTime = term("MS:1000595", "minute"), kIntensity = term("MS:1000515", "number of counts");
const std::string k64 = term("MS:1000523"), k32 = term("MS:1000521"), kPlain = term("MS:1000576"),
                  kZlib = term("MS:1000574");

std::string file(const std::string& arrays, const std::string& length = "3", const std::string& count = "1") {
    return "<?xml version=\"1.0\"?>\n<indexedmzML><mzML version=\"1.1.0\"><run id=\"r\"><chromatogramList count=\"" +
           count + "\"><chromatogram id=\"TIC\" index=\"0\" defaultArrayLength=\"" + length + "\">" + arrays +
           "</chromatogram></chromatogramList></run></mzML></indexedmzML>";
}

const std::vector<double> kX{0.5, 1, 1.5};
const std::vector<float> kY{10, 20.25f, 30};

std::string plain() {
    return array(kTime + k64 + kPlain, bytesOf(kX)) + array(kIntensity + k32 + kPlain, bytesOf(kY));
}

void expectTrace(const std::string& bytes) {
    const auto content = readMzml(bytes);
    ASSERT_TRUE(content) << content.error().message;
    ASSERT_EQ(content->traces.size(), 1u);
    const FileTrace& trace = content->traces[0];
    EXPECT_EQ(trace.name, "TIC");
    EXPECT_EQ(trace.xAxis.unit, "minute");
    EXPECT_EQ(trace.x, kX);
    EXPECT_EQ(trace.y, (std::vector<double>{10, 20.25, 30}));
}

TEST(Mzml, PlainAndZlib) {
    expectTrace(file(plain()));
    expectTrace(file(array(kTime + k64 + kZlib, deflated(bytesOf(kX))) +
                     array(kIntensity + k32 + kZlib, deflated(bytesOf(kY)))));
}

TEST(Mzml, InGzip) {
    const std::string bytes = file(plain());
    std::string packed(bytes.size() + 100, '\0');
    z_stream stream{};
    ASSERT_EQ(deflateInit2(&stream, 6, Z_DEFLATED, 15 + 16, 8, Z_DEFAULT_STRATEGY), Z_OK);
    std::string in = bytes;
    stream.next_in = reinterpret_cast<Bytef*>(in.data());
    stream.avail_in = static_cast<uInt>(in.size());
    stream.next_out = reinterpret_cast<Bytef*>(packed.data());
    stream.avail_out = static_cast<uInt>(packed.size());
    ASSERT_EQ(deflate(&stream, Z_FINISH), Z_STREAM_END);
    packed.resize(packed.size() - stream.avail_out);
    deflateEnd(&stream);
    expectTrace(packed);
    EXPECT_EQ(readMzml(packed.substr(0, packed.size() / 2)).error().code, "mzml.gzip");
}

TEST(Mzml, TermsFromAGroup) {
    std::string bytes = file(array("<referenceableParamGroupRef ref=\"g\"/>" + k64, bytesOf(kX)) +
                             array(kIntensity + k32, bytesOf(kY)));
    bytes.insert(bytes.find("<run"), "<referenceableParamGroupList count=\"1\"><referenceableParamGroup id=\"g\">" +
                                         kTime + "</referenceableParamGroup></referenceableParamGroupList>");
    expectTrace(bytes);
}

// Found by fuzzing: a group that refers to itself while it is defined.
TEST(Mzml, AGroupOfItselfIsNoGroup) {
    std::string bytes = file(array("<referenceableParamGroupRef ref=\"g\"/>" + k64, bytesOf(kX)) +
                             array(kIntensity + k32, bytesOf(kY)));
    std::string group = "<referenceableParamGroup id=\"g\">" + kTime;
    for (int i = 0; i < 40; ++i) { // each would double it
        group += "<referenceableParamGroupRef ref=\"g\"/>";
    }
    bytes.insert(bytes.find("<run"), group + "</referenceableParamGroup>");
    expectTrace(bytes);
}

// The examples of the MS-Numpress paper's definition, worked out by hand. Linear: scale 1000; 500, 1000, then
// differences of second order 0, which is the half byte 8. Slof: scale 1000, words of round(1000 ln(x+1)). Pic: counts
// in half bytes.
TEST(Mzml, Numpress) {
    const auto scale = [](double value) {
        std::string bytes(8, '\0');
        std::memcpy(bytes.data(), &value, 8);
        return std::string(bytes.rbegin(), bytes.rend());
    };
    const std::string linear = scale(1000) + bytesOf<std::int32_t>({500, 1000}) + std::string("\x88", 1);
    // 10: seven leading zeros, then the half byte A. 20: six, then 4, 1. 30: six, then E, 1, and one to fill.
    const std::string counts("\x7a\x64\x16\xe1", 4);
    const auto content =
        readMzml(file(array(kTime + term("MS:1002312"), linear) + array(kIntensity + term("MS:1002313"), counts)));
    ASSERT_TRUE(content) << content.error().message;
    EXPECT_EQ(content->traces[0].x, kX);
    EXPECT_EQ(content->traces[0].y, (std::vector<double>{10, 20, 30}));
    const std::string slof = scale(1000) + bytesOf<std::uint16_t>({2398, 3045, 3434});
    const auto rough = readMzml(
        file(array(kTime + term("MS:1002746"), deflated(linear)) + array(kIntensity + term("MS:1002314"), slof)));
    ASSERT_TRUE(rough) << rough.error().message;
    EXPECT_NEAR(rough->traces[0].y[0], 10, 0.01);
    EXPECT_NEAR(rough->traces[0].y[2], 30, 0.02);
}

TEST(Mzml, CountsAreHintsAndTimesAreLookedAt) {
    const auto content = readMzml(file(plain(), "3", "4000000000"));
    ASSERT_TRUE(content);
    ASSERT_EQ(content->warnings.size(), 1u);
    EXPECT_NE(content->warnings[0].find("4000000000"), std::string::npos);
    const auto falling = readMzml(
        file(array(kTime + k64, bytesOf(std::vector<double>{2, 1, 3})) + array(kIntensity + k32, bytesOf(kY))));
    ASSERT_TRUE(falling);
    EXPECT_EQ(falling->warnings.size(), 1u);
}

TEST(Mzml, SaysWhatIsWrong) {
    const auto code = [](const std::string& bytes) {
        const auto content = readMzml(bytes);
        return content ? std::string("read") : content.error().code;
    };
    EXPECT_EQ(code("<?xml version=\"1.0\"?><html/>"), "mzml.root");
    EXPECT_EQ(code(file(plain(), "4")), "mzml.array");
    EXPECT_EQ(code(file(plain(), "-1")), "mzml.array");
    EXPECT_EQ(code(file(plain(), "1e30")), "mzml.array");
    EXPECT_EQ(code(file(array(kIntensity + k32, bytesOf(kY)))), "mzml.array");
    EXPECT_EQ(code(file(array(kTime + k32, bytesOf(kX)) + array(kIntensity + k32, bytesOf(kY)))), "mzml.array");
    EXPECT_EQ(code(file("<a></b>")), "mzml.xml");
    EXPECT_EQ(code("<?xml version=\"1.0\"?><!DOCTYPE mzML [<!ENTITY a \"b\">]><mzML/>"), "mzml.xml");
    // A bomb: far more than it announces.
    EXPECT_EQ(code(file(array(kTime + k64 + kZlib, deflated(std::string(50'000'000, '\0'))))), "mzml.array");
}

TEST(Mzml, CutAtEveryLength) {
    const std::string whole = file(plain());
    for (std::size_t size = 0; size < whole.size(); ++size) {
        EXPECT_FALSE(readMzml(whole.substr(0, size))) << size;
    }
}

} // namespace
} // namespace nuvat
