// Files of traces taken in: runs, channels, sweeps, folders, and what is corrected by hand.
#include "nuvat/workflow/apply_method.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/trace_import.h"

#include "support/reference.h"

#include <atomic>
#include <fstream>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::TemporaryFolder;

class TraceImport : public testing::Test {
protected:
    std::filesystem::path write(const std::string& name, const std::string& text) const {
        std::ofstream(m_folder / name, std::ios::binary) << text;
        return m_folder / name;
    }
    TraceFile read(const std::string& text) const {
        NoProgress progress;
        auto got = readNext({write("file.csv", text)}, progress);
        EXPECT_TRUE(got && got->traces.size() == 1) << text;
        return got && !got->traces.empty() ? got->traces.front() : TraceFile{};
    }
    static std::vector<std::string> channelsOf(const ImportedRun& run) {
        std::vector<std::string> out;
        for (const auto& [name, payload] : run.channels) {
            out.push_back(name);
        }
        return out;
    }
    TemporaryFolder m_folder;
};

std::string columns(int count, int rows = 12) {
    std::string out = "time (min)";
    for (int i = 1; i <= count; ++i) {
        out += ",signal " + std::to_string(i) + " (mV)";
    }
    out += "\n";
    for (int row = 0; row < rows; ++row) {
        out += std::to_string(row * 0.5);
        for (int i = 1; i <= count; ++i) {
            out += "," + std::to_string(row * i);
        }
        out += "\n";
    }
    return out;
}

TEST_F(TraceImport, FewColumnsAreChannelsManyAreRunsUnlessSaidOtherwise) {
    const auto few = runsOf(read(columns(2)));
    ASSERT_TRUE(few) << few.error().message;
    ASSERT_EQ(few->size(), 1u);
    EXPECT_EQ(channelsOf(few->front()), (std::vector<std::string>{"signal 1", "signal 2"}));
    EXPECT_EQ(few->front().channels[1].second.trace()->y.at(3), 6);
    EXPECT_EQ(few->front().channels[1].second.trace()->xUnit, "min");
    const TraceFile six = read(columns(6));
    const auto many = runsOf(six);
    ASSERT_TRUE(many);
    ASSERT_EQ(many->size(), 6u);
    EXPECT_EQ(many->at(4).name, "signal 5");
    EXPECT_EQ(channelsOf(many->at(4)), (std::vector<std::string>{"signal"}));
    EXPECT_EQ(runsOf(six, {.columns = ColumnsAre::Channels})->size(), 1u);
    const auto below = runsOf(read("Column 5\tday 3\n" + columns(6)));
    EXPECT_EQ(below->size(), 6u) << "a title above changes nothing";
    std::string twice = columns(6);
    twice.replace(twice.find("signal 6"), 8, "signal 5");
    EXPECT_EQ(runsOf(read(twice))->size(), 6u) << "two injections of one name are two runs";
    EXPECT_EQ(runsOf(read(columns(2)), {.columns = ColumnsAre::Runs})->size(), 2u);
}

TEST_F(TraceImport, ForthAndBackAreTwoSweeps) {
    const auto runs = runsOf(read("potential (V),current (uA)\n-0.2,1\n-0.1,2\n0,3\n0.1,4\n0.2,5\n0.1,4\n0,3\n-0.1,2\n"
                                  "-0.2,1\n-0.3,10\n"));
    ASSERT_TRUE(runs) << runs.error().message;
    ASSERT_EQ(channelsOf(runs->front()),
              (std::vector<std::string>{"current · sweep 1, rising", "current · sweep 2, falling"}));
    const auto falling = runs->front().channels[1].second.trace();
    EXPECT_TRUE(std::is_sorted(falling->x.begin(), falling->x.end())) << "x rises in every trace";
    EXPECT_EQ(falling->y.front(), 10);
}

TEST_F(TraceImport, ARecipeChoosesXNamesAndUnits) {
    const TraceFile file =
        read("time (s),potential (V),current\n0,0.0,1\n1,0.1,2\n2,0.2,4\n3,0.3,8\n4,0.4,\n5,0.5,32\n");
    EXPECT_EQ(columnNames(file.content), (std::vector<std::string>{"time", "potential", "current"}));
    TraceRecipe recipe;
    recipe.x = "potential";
    recipe.corrected = {{"current", "anode", "uA"}, {"time", "", ""}};
    const auto runs = runsOf(file, recipe);
    ASSERT_TRUE(runs) << runs.error().message;
    ASSERT_EQ(channelsOf(runs->front()), (std::vector<std::string>{"anode"}));
    const auto trace = runs->front().channels[0].second.trace();
    EXPECT_EQ(trace->xName, "potential");
    EXPECT_EQ(trace->xUnit, "V");
    EXPECT_EQ(trace->yUnit, "uA");
    EXPECT_NEAR(trace->xAt(3), 0.3, 1e-15);
    EXPECT_EQ(trace->y.at(3), 8);
    EXPECT_EQ(trace->missing, (std::vector<std::uint32_t>{4}));
    // A point without x goes, and the points behind it stay with their own x.
    recipe.x = "current";
    recipe.corrected = {{"time", "", ""}};
    const auto turned = runsOf(file, recipe);
    ASSERT_TRUE(turned) << turned.error().message;
    const auto potential = turned->front().channels[0].second.trace();
    EXPECT_EQ(potential->size(), 5u);
    EXPECT_EQ(potential->xAt(4), 32);
    EXPECT_EQ(potential->y.at(4), 0.5);
    recipe.corrected = {{"time", "", ""}, {"potential", "", ""}, {"current", "", ""}};
    EXPECT_EQ(runsOf(file, recipe).error().code, "peaks.no-trace");
}

TEST_F(TraceImport, FilesComeInTheOrderOfTheirNumbersAndBadOnesKeepNothingOut) {
    for (const char* name : {"run 10.csv", "run 2.csv", "run 1.csv"}) {
        write(name, columns(1));
    }
    write("run 3.csv", "no columns here");
    write(".hidden", columns(1));
    std::vector<std::string> names;
    const auto files = filesIn({m_folder.path()});
    for (const auto& file : files) {
        names.push_back(file.filename().string());
    }
    EXPECT_EQ(names, (std::vector<std::string>{"run 1.csv", "run 2.csv", "run 3.csv", "run 10.csv"}));
    NoProgress progress;
    const auto got = readNext(files, progress);
    ASSERT_TRUE(got);
    EXPECT_EQ(got->count, 4u);
    ASSERT_EQ(got->traces.size(), 3u);
    EXPECT_EQ(got->traces[2].source, "run 10.csv");
    ASSERT_EQ(got->errors.size(), 1u);
    EXPECT_NE(got->errors[0].message.find("run 3.csv"), std::string::npos) << got->errors[0].message;
}

/// Cancels when so much was reported; keeps what was.
class CancelsAt : public Progress {
public:
    explicit CancelsAt(double at) : m_at(at) {}
    void report(double fraction) override { m_reported = std::max(m_reported.load(), fraction); }
    bool cancelled() const override { return m_reported >= m_at; }
    double reported() const { return m_reported; }

private:
    double m_at;
    std::atomic<double> m_reported{0};
};

TEST_F(TraceImport, HundredsOfFilesAreReadAtOnceAndAsOneByOne) {
    constexpr int kFiles = 150;
    std::vector<std::filesystem::path> files;
    for (int i = 0; i < kFiles; ++i) {
        files.push_back(write("run " + std::to_string(i) + ".csv", i == 77 ? "no columns here" : columns(1 + i % 4)));
    }
    CancelsAt watched(2);
    const auto together = readNext(files, watched);
    ASSERT_TRUE(together) << together.error().message;
    EXPECT_EQ(together->count, files.size());
    EXPECT_EQ(together->errors.size(), 1u);
    EXPECT_NEAR(watched.reported(), 1, 0.3) << "progress comes from this thread alone";
    NoProgress progress;
    std::size_t at = 0;
    for (int i = 0; i < kFiles; ++i) {
        const auto alone = readNext({files[static_cast<std::size_t>(i)]}, progress);
        if (alone->traces.empty()) {
            continue;
        }
        ASSERT_LT(at, together->traces.size());
        EXPECT_EQ(together->traces[at].source, alone->traces[0].source);
        EXPECT_EQ(together->traces[at].checksum, alone->traces[0].checksum);
        EXPECT_EQ(together->traces[at].content.traces.size(), alone->traces[0].content.traces.size());
        ++at;
    }
    EXPECT_EQ(at, together->traces.size());
    CancelsAt early(0.3);
    EXPECT_EQ(readNext(files, early).error().code, "import.cancelled");
}

TEST_F(TraceImport, PlatesAreReadOneAfterTheOther) {
    const std::string plate = ",1,2,3\nA,0.1,0.2,0.3\nB,0.4,0.5,0.6\n";
    const std::vector<std::filesystem::path> files{write("a.csv", columns(1)), write("b.csv", plate),
                                                   write("c.csv", columns(1))};
    NoProgress progress;
    const auto first = readNext(files, progress);
    ASSERT_TRUE(first);
    EXPECT_EQ(first->count, 1u) << "the plate waits";
    EXPECT_EQ(first->traces.size(), 1u);
    const auto second = readNext({files[1], files[2]}, progress);
    ASSERT_TRUE(second);
    EXPECT_EQ(second->count, 1u);
    EXPECT_EQ(second->plates.size(), 1u);
    EXPECT_TRUE(second->traces.empty());
    const auto pasted = readPasted(columns(1));
    ASSERT_TRUE(pasted);
    EXPECT_EQ(pasted->traces.size(), 1u);
    EXPECT_EQ(readPasted(plate)->plates.size(), 1u);
}

// A method of traces, a new file: the same layout, and the digits of the batch that it came from.
TEST_F(TraceImport, AMethodIsAppliedToFurtherRuns) {
    const auto demo = demoBatch("esters", m_folder / "esters.nuvat");
    ASSERT_TRUE(demo) << demo.error().text();
    const auto file = std::filesystem::path(NUVAT_DEMO_DIR) / "esters" / "esters.tsv";
    const auto made = applyMethod(m_folder / "esters.nuvat", {file}, m_folder / "next.nuvat");
    ASSERT_TRUE(made) << made.error().text();
    const Batch& batch = made->document->batch();
    EXPECT_EQ(batch.places, demo->document->batch().places);
    EXPECT_EQ(batch.runs.at({9, 0}).name, "Cider base, vat 2");
    const Evaluation was = evaluate(demo->document->batch()), is = evaluate(batch);
    for (int analyte = 1; analyte <= 4; ++analyte) {
        ASSERT_EQ(is.analyte(analyte).results.size(), was.analyte(analyte).results.size());
        for (std::size_t i = 0; i < is.analyte(analyte).results.size(); ++i) {
            EXPECT_EQ(is.analyte(analyte).results[i].result, was.analyte(analyte).results[i].result);
        }
    }
    EXPECT_NE(evaluationJson(batch, is).find("\"tailing5\""), std::string::npos) << "the peaks are in the JSON";
    const auto plate = std::filesystem::path(NUVAT_DEMO_DIR) / "patulin-elisa" / "plate-450.csv";
    EXPECT_EQ(applyMethod(m_folder / "esters.nuvat", {plate}, m_folder / "no.nuvat").error().code, "peaks.no-trace");
    EXPECT_FALSE(std::filesystem::exists(m_folder / "no.nuvat"));
}

TEST_F(TraceImport, TheDemosGiveWhatTheyWereMadeOf) {
    const auto esters = demoBatch("esters", {});
    ASSERT_TRUE(esters);
    const Evaluation got = evaluate(esters->document->batch());
    // truth.csv: true concentrations of the six ciders, in the order of the analytes.
    const double truth[6][4] = {{41, 3.1, 0.62, 0.48}, {58, 5.4, 1.10, 0.91},  {22, 1.3, 0.31, 0},
                                {73, 8.8, 1.72, 1.35}, {87, 12.4, 2.31, 1.90}, {138, 14.9, 3.05, 2.44}};
    for (int analyte = 1; analyte <= 4; ++analyte) {
        for (int sample = 1; sample <= 6; ++sample) {
            const SampleResult* result = got.analyte(analyte).result({Role::Unknown, sample});
            const double wanted = truth[sample - 1][analyte - 1];
            ASSERT_NE(result, nullptr);
            if (wanted == 0) {
                EXPECT_FALSE(result->readOff.x) << "not found, not 0";
            } else {
                EXPECT_NEAR(*result->readOff.x, wanted, 0.06 * wanted) << analyte << " of sample " << sample;
            }
        }
    }
    const auto ascorbic = demoBatch("ascorbic-acid", {});
    ASSERT_TRUE(ascorbic);
    const AnalyteEvaluation acid = evaluate(ascorbic->document->batch()).analyte(1);
    ASSERT_EQ(acid.results.size(), 2u);
    EXPECT_NEAR(*acid.results[0].result, 31.5, 1.5);
    EXPECT_NEAR(*acid.results[1].result, 9.2, 0.5);
}

class Cancelled : public Progress {
public:
    void report(double) override {}
    bool cancelled() const override { return true; }
};

TEST_F(TraceImport, CancellingTakesNothing) {
    Cancelled progress;
    EXPECT_EQ(readNext({write("a.csv", columns(1))}, progress).error().code, "import.cancelled");
}

// Scans of mzXML with the pairs (1.5, 2.5) in 32 bits: a total of 2.5 each, and 5 where there are two.
TEST(RunOfSpectra, IsTheChromatogramOfTheirTotals) {
    const auto scan = [](int number, const std::string& time, int pairs) {
        return "<scan num=\"" + std::to_string(number) + "\" peaksCount=\"" + std::to_string(pairs) +
               "\" retentionTime=\"" + time + "\"><peaks precision=\"32\" byteOrder=\"network\">" +
               (pairs == 1 ? "P8AAAEAgAAA=" : "P8AAAEAgAAA/wAAAQCAAAA==") + "</peaks></scan>";
    };
    const test::TemporaryFolder folder;
    const auto file = [&](const std::string& scans) {
        const auto path = folder / "run.mzXML";
        std::ofstream(path) << "<?xml version=\"1.0\"?><mzXML><msRun>" << scans << "</msRun></mzXML>";
        NoProgress progress;
        auto read = readNext({path}, progress);
        EXPECT_TRUE(read && read->errors.empty()) << (read ? read->errors.front().text() : read.error().text());
        return read->traces.front().content;
    };
    const FileContent run = file(scan(1, "PT0.5S", 1) + scan(2, "PT1S", 2) + scan(3, "PT1M1S", 1));
    ASSERT_EQ(run.traces.size(), 1u);
    EXPECT_EQ(run.traces.front().x, (std::vector<double>{0.5, 1, 61}));
    EXPECT_EQ(run.traces.front().y, (std::vector<double>{2.5, 5, 2.5}));
    EXPECT_EQ(run.traces.front().xAxis.unit, "s");
    EXPECT_FALSE(run.warnings.empty());
    EXPECT_EQ(file(scan(1, "", 1) + scan(2, "", 2)).traces.size(), 2u) << "without times they stay spectra";
    EXPECT_EQ(file(scan(1, "PT2S", 1) + scan(2, "PT1S", 2)).traces.size(), 2u);
}

} // namespace
} // namespace nuvat
