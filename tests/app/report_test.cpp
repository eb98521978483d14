// The report as pages: nothing is cut, blocks come and go, the PDF is whole or not there.
#include "nuvat/report/report_file.h"

#include "nuvat/batch/document.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "nuvat/workflow/session.h"
#include "support/reference.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <cmath>
#include <gtest/gtest.h>
#include <QImage>
#include <QLocale>
#include <QProcess>
#include <QRegularExpression>

namespace nuvat {
namespace {

QString pdfText(const std::filesystem::path& path) {
    QProcess process;
    process.start(QStringLiteral("pdftotext"),
                  {QStringLiteral("-layout"), QString::fromStdString(path.string()), QStringLiteral("-")});
    EXPECT_TRUE(process.waitForFinished());
    return QString::fromUtf8(process.readAllStandardOutput());
}

Report reportOf(const Batch& batch, const std::vector<HistoryLine>& history = {}) {
    return Report(batch, evaluate(batch), history, 1'789'382'160'000);
}

/// Painted black on white; true where a pixel is not white.
QImage painted(const Report& report, int page) {
    QImage image(595, 842, QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter painter(&image);
    report.paint(painter, page, QRectF(image.rect()));
    return image;
}

bool isBlank(const QImage& image, const QRect& area) {
    for (int y = area.top(); y <= area.bottom(); ++y) {
        for (int x = area.left(); x <= area.right(); ++x) {
            if (image.pixelColor(x, y) != QColor(Qt::white)) {
                return false;
            }
        }
    }
    return true;
}

TEST(ReportPages, KeepTheirMargins) {
    const auto demo = demoBatch({});
    ASSERT_TRUE(demo);
    const Report report = reportOf(demo->document->batch(), demo->document->history());
    ASSERT_EQ(report.pageCount(), 3);
    for (int page = 0; page < report.pageCount(); ++page) {
        const QImage image = painted(report, page);
        EXPECT_TRUE(isBlank(image, QRect(0, 0, 40, 842))) << "left of page " << page + 1;
        EXPECT_TRUE(isBlank(image, QRect(553, 0, 42, 842))) << "right of page " << page + 1;
        EXPECT_TRUE(isBlank(image, QRect(0, 0, 595, 40))) << "top of page " << page + 1;
        EXPECT_TRUE(isBlank(image, QRect(0, 822, 595, 20))) << "bottom of page " << page + 1;
        EXPECT_FALSE(isBlank(image, QRect(48, 46, 499, 100))) << "page " << page + 1 << " is empty";
    }
}

TEST(ReportPages, ALongTableGoesOnWithItsHeading) {
    Document document = test::sampleDocument();
    ASSERT_TRUE(document.apply(fillRest(document.batch(), Role::Unknown, 1, Direction::Across)));
    const test::TemporaryFolder folder;
    const Report report = reportOf(document.batch());
    ASSERT_TRUE(report.writePdf(folder / "r.pdf", QStringLiteral("t")));
    const QString text = pdfText(folder / "r.pdf");
    EXPECT_GE(text.count(QStringLiteral("Dilution")), 2); // the heading stands on each page of the table
    for (int number = 1; number <= 70; ++number) {        // no row is lost between the pages
        const QString name = QStringLiteral("U%1").arg(number, 2, 10, QLatin1Char('0'));
        EXPECT_TRUE(text.contains(QRegularExpression(QStringLiteral("\\b%1\\b").arg(name)))) << name.toStdString();
    }
    for (int page = 1; page <= report.pageCount(); ++page) {
        EXPECT_TRUE(text.contains(QStringLiteral("%1 of %2").arg(page).arg(report.pageCount())));
    }
}

TEST(ReportPages, LongNamesWrapInTheirColumn) {
    Document document = test::sampleDocument();
    const std::string name =
        "Cloudy juice of the northern orchards, pressed on the second day, tank number seventeen, repeat";
    ASSERT_TRUE(document.apply(setSample(document.batch(), 1, {name, 5, ""})));
    const test::TemporaryFolder folder;
    ASSERT_TRUE(reportOf(document.batch()).writePdf(folder / "r.pdf", QStringLiteral("t")));
    const QString text = pdfText(folder / "r.pdf").simplified();
    for (const char* part : {"Cloudy juice of the", "seventeen", "repeat"}) {
        EXPECT_TRUE(text.contains(QString::fromUtf8(part))) << part;
    }
}

TEST(ReportPages, BlocksStandInTheOrderOfTheMethodWithBreaks) {
    Batch batch = test::sampleDocument().batch();
    const Evaluation evaluation = evaluate(batch);
    const auto pages = [&] { return Report(batch, evaluation, {}, 0).pageCount(); };
    batch.method = withBlocks(batch.method, {"heading", "results", "method"});
    EXPECT_EQ(blockKeys(batch.method), (std::vector<std::string>{"heading", "results", "method"}));
    const int without = pages();
    batch.method = withBlocks(batch.method, {"heading", kPageBreak, "results", kPageBreak, kPageBreak, "method"});
    EXPECT_EQ(pages(), without + 2) << "two breaks in a row leave no empty page";
    // A block that comes back takes its usual place.
    batch.method = withBlock(batch.method, "qc", true);
    EXPECT_EQ(blockKeys(batch.method),
              (std::vector<std::string>{"heading", kPageBreak, "qc", "results", kPageBreak, kPageBreak, "method"}));
}

TEST(ReportPages, BlocksComeAndGo) {
    Batch batch = test::sampleDocument().batch();
    const test::TemporaryFolder folder;
    for (const ReportBlock& block : reportBlocks()) {
        if (block.key == "heading") {
            continue;
        }
        if (!hasBlock(batch.method, block.key)) { // only where a method asks for it
            const Method with = withBlock(batch.method, block.key, true);
            EXPECT_TRUE(hasBlock(with, block.key));
            EXPECT_TRUE(withBlock(with, block.key, false).reportBlocks.empty());
            continue;
        }
        Batch without = batch;
        without.method = withBlock(without.method, block.key, false);
        EXPECT_FALSE(hasBlock(without.method, block.key));
        for (const ReportBlock& other : reportBlocks()) {
            EXPECT_EQ(hasBlock(without.method, other.key), other.key != block.key && hasBlock(batch.method, other.key))
                << other.key;
        }
        without.method = withBlock(without.method, block.key, true);
        EXPECT_TRUE(without.method.reportBlocks.empty()); // all again
    }
    batch.method = withBlock(batch.method, "parameters", false);
    ASSERT_TRUE(reportOf(batch).writePdf(folder / "r.pdf", QStringLiteral("t")));
    EXPECT_FALSE(pdfText(folder / "r.pdf").contains(QStringLiteral("b, slope factor")));
    EXPECT_TRUE(hasBlock(withBlock(batch.method, "heading", false), "heading")); // the heading always stays
}

TEST(ReportPages, BlocksArePrintedWithTheirOptions) {
    Document document = test::sampleDocument();
    const test::TemporaryFolder folder;
    Batch batch = document.batch();
    const auto printed = [&] {
        EXPECT_TRUE(reportOf(batch, document.history()).writePdf(folder / "r.pdf", QStringLiteral("t")));
        return pdfText(folder / "r.pdf");
    };
    const QString usual = printed();
    EXPECT_TRUE(usual.contains(QStringLiteral("Standards, back-calculated")));
    EXPECT_TRUE(usual.contains(QStringLiteral("History of exclusions and overrides")));
    batch.method = withOption(batch.method, "standards", "levels");
    batch.method = withOption(batch.method, "history", "all");
    batch.method = withOption(batch.method, "results", "review");
    EXPECT_TRUE(hasBlock(batch.method, "standards"));
    const QString other = printed();
    EXPECT_FALSE(other.contains(QStringLiteral("Standards, back-calculated")));
    EXPECT_TRUE(other.contains(QStringLiteral("Standards, level by level")));
    EXPECT_TRUE(other.contains(text(document.history().front().label)));
    const auto results = evaluate(batch).analyte().results;
    const auto toLookAt = std::ranges::count_if(
        results, [](const SampleResult& r) { return r.group.role == Role::Unknown && (r.needsReview || !r.result); });
    EXPECT_TRUE(other.contains(QStringLiteral("%1 of 6 samples: those to look at").arg(toLookAt)));
    // A block that is switched off and on has its usual form again; chosen back, all is as usual.
    batch.method = withBlock(withBlock(batch.method, "standards", false), "standards", true);
    batch.method = withOption(withOption(batch.method, "history", {}), "results", {});
    EXPECT_TRUE(batch.method.reportBlocks.empty());
    // Half a page for the figure moves what follows.
    const int pages = reportOf(batch).pageCount();
    batch.method = withOption(batch.method, "figure", "tall");
    EXPECT_GE(reportOf(batch).pageCount(), pages);
    EXPECT_NE(painted(reportOf(batch), 0), painted(Report(document.batch(), evaluate(document.batch()), {}, 1), 0));
}

TEST(ReportPages, PlatesArePrintedWithAnyQuantity) {
    Batch batch = test::sampleDocument().batch();
    const Evaluation evaluation = evaluate(batch);
    const test::TemporaryFolder folder;
    const SampleResult& first = *evaluation.analyte().result({Role::Unknown, 1});
    const Place place = first.replicates.front().place;
    const auto printedWith = [&](const char* key) {
        Batch one = batch;
        one.method = withBlocks(batch.method, {"heading", key});
        EXPECT_TRUE(reportOf(one).writePdf(folder / "r.pdf", QStringLiteral("t")));
        return pdfText(folder / "r.pdf");
    };
    EXPECT_TRUE(printedWith("plate-layout").contains(QStringLiteral("U01")));
    EXPECT_TRUE(printedWith("plate-readings").contains(shown(formatFigures(*evaluation.analyte().at(place).raw, 4))));
    EXPECT_TRUE(
        printedWith("plate-responses").contains(shown(formatFigures(*evaluation.analyte().at(place).value, 4))));
    EXPECT_TRUE(printedWith("plate-status").contains(text(statusWord(first))));
    EXPECT_TRUE(printedWith("plate-cv").contains(shown(formatDecimals(*first.concentration.cvPercent, 1))));
}

TEST(ReportPages, TracesAndTheirPeaksArePrinted) {
    const auto demo = demoBatch("esters", {});
    ASSERT_TRUE(demo) << demo.error().text();
    Batch batch = demo->document->batch();
    const test::TemporaryFolder folder;
    ASSERT_TRUE(reportOf(batch).writePdf(folder / "r.pdf", QStringLiteral("t")));
    const QString all = pdfText(folder / "r.pdf");
    EXPECT_TRUE(all.contains(QStringLiteral("24 runs, the first of esters.tsv")));
    EXPECT_EQ(all.count(QStringLiteral("Traces, signal")), 4) << "for each analyte";
    EXPECT_TRUE(all.contains(QStringLiteral("Peaks of every run")));
    EXPECT_TRUE(all.contains(QStringLiteral("not found"))) << "of the blank";
    const auto measured = evaluate(batch).traces.at({1, Place{1, 0}, "signal"});
    EXPECT_TRUE(all.contains(shown(formatFigures(measured->features.peaks.front().area, 4))));
    batch.method = withBlock(withBlock(batch.method, "traces", false), "peaks", false);
    ASSERT_TRUE(reportOf(batch).writePdf(folder / "r.pdf", QStringLiteral("t")));
    const QString less = pdfText(folder / "r.pdf");
    EXPECT_FALSE(less.contains(QStringLiteral("Traces, signal")));
    EXPECT_FALSE(less.contains(QStringLiteral("Peaks of every run")));
}

TEST(ReportPages, EverySampleOfAStandardAdditionHasItsLine) {
    const auto demo = demoBatch("ascorbic-acid", {});
    ASSERT_TRUE(demo) << demo.error().text();
    Batch batch = demo->document->batch();
    const test::TemporaryFolder folder;
    const auto printed = [&] {
        EXPECT_TRUE(reportOf(batch).writePdf(folder / "r.pdf", QStringLiteral("t")));
        return pdfText(folder / "r.pdf");
    };
    const QString all = printed();
    EXPECT_EQ(all.count(QStringLiteral("Method and curve")), 1);
    EXPECT_TRUE(all.contains(QStringLiteral("where the line meets response 0")));
    EXPECT_TRUE(all.contains(QStringLiteral("The volume of a sample and of its additions is the same.")));
    EXPECT_FALSE(all.contains(QStringLiteral("standards in the fit"))) << "there is no common curve";
    const AnalyteEvaluation evaluation = evaluate(batch).analyte();
    ASSERT_EQ(evaluation.additions.size(), 2u);
    for (const AdditionLine& line : evaluation.additions) {
        EXPECT_TRUE(all.contains(shown(formatFigures(line.line->content, 4)))) << line.sample;
        EXPECT_TRUE(all.contains(shown(formatFigures(line.response.back(), 4)))) << "and its last addition";
    }
    // A sample without additions has no line, and the report says why; the growing volume is named.
    std::erase_if(batch.places, [](const auto& entry) {
        return entry.second == Assignment{Role::Addition, 2, 1} || entry.second == Assignment{Role::Addition, 2, 2} ||
               entry.second == Assignment{Role::Addition, 2, 3};
    });
    batch.method.analyte().source.additionStandard = 500;
    const QString less = printed();
    const std::string& problem = evaluate(batch).analyte().additions.at(1).problem;
    ASSERT_FALSE(problem.empty());
    EXPECT_TRUE(less.simplified().contains(text(fullName(batch, {Role::Unknown, 2})) + QStringLiteral(": ")));
    EXPECT_TRUE(less.contains(QStringLiteral("the added solution of 500 mg/L")));
}

/// The cells of a printed row with one blank between them.
QString row(const QStringList& cells) {
    return cells.join(u' ').simplified();
}

QString figures(const std::optional<double>& value, int count) {
    return shown(formatFigures(value.value(), count));
}

TEST(ReportPages, EveryColumnHoldsWhatItsHeadingSays) {
    const auto demo = demoBatch({});
    ASSERT_TRUE(demo);
    const Batch& batch = demo->document->batch();
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const test::TemporaryFolder folder;
    ASSERT_TRUE(reportOf(batch).writePdf(folder / "r.pdf", QStringLiteral("t")));
    const QString printed = pdfText(folder / "r.pdf").simplified();
    for (const StandardValue& s : evaluation.standards) {
        const QString weight = s.normalisedWeight ? figures(s.normalisedWeight, 3) : QStringLiteral("–");
        EXPECT_TRUE(printed.contains(row({QStringLiteral("S%1").arg(s.level), text(placeName(batch, s.place)),
                                          figures(s.x, 4), figures(s.y, 4), weight, figures(s.backCalculated, 4)})))
            << placeName(batch, s.place);
    }
    for (const SampleResult& r : evaluation.results) {
        if (r.group.role == Role::Qc) {
            const QString from = text(shortName(batch, r.group)) + u' ' + figures(r.nominal, 3);
            const qsizetype at = printed.indexOf(from);
            ASSERT_GE(at, 0) << from.toStdString();
            const QString line = printed.mid(at, 90);
            EXPECT_TRUE(line.contains(u' ' + figures(r.recoveryPercent, 3) + QStringLiteral(" %")))
                << line.toStdString();
        }
    }
}

// A blank that a free asymptote follows is no part of the interval, so the report must not say that it is.
TEST(ReportPages, NamesTheBlankOnlyWhereItEntersTheInterval) {
    Batch batch = test::sampleDocument().batch();
    test::setValue(batch, {7, 0}, test::valueAt(batch, {7, 0}) + 0.01); // H1, so that it scatters
    const test::TemporaryFolder folder;
    const auto printed = [&] {
        EXPECT_TRUE(reportOf(batch).writePdf(folder / "r.pdf", QStringLiteral("t")));
        return pdfText(folder / "r.pdf").simplified();
    };
    EXPECT_TRUE(printed().contains(QStringLiteral("of the readings' scatter and the curve.")));
    batch.method.analyte().fit.model = Model::LineThroughOrigin;
    EXPECT_TRUE(printed().contains(QStringLiteral("of the readings' scatter, the curve and the blank.")));
}

TEST(ReportPages, EveryAnalyteHasItsOwnNumbers) {
    Batch batch = test::sampleDocument().batch();
    batch.method.analytes.push_back(batch.method.analytes.front());
    batch.method.analytes.back().name = "Second";
    for (const int number : PlaceIndex(batch).numbersOf(Role::Standard)) {
        batch.levels[{number, 2}] =
            Level{3 * batch.concentration(number).value()}; // so that all its numbers are others
    }
    const Evaluation evaluation = evaluate(batch);
    const test::TemporaryFolder folder;
    ASSERT_TRUE(reportOf(batch).writePdf(folder / "r.pdf", QStringLiteral("t")));
    const QString printed = pdfText(folder / "r.pdf").simplified();
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        const StandardValue& s = analyte.standards.front();
        EXPECT_TRUE(printed.contains(row({text(placeName(batch, s.place)), figures(s.x, 4), figures(s.y, 4)})))
            << analyte.analyte;
    }
}

TEST(ReportPages, TheHistoryOfExclusionsHasEveryStep) {
    std::int64_t now = 1'789'382'160'000;
    Document document = test::sampleDocument([&now] { return now += 60'000; });
    ASSERT_TRUE(document.apply(excludePlaces(document.batch(), {{2, 1}}, "bubble in well", now)));
    ASSERT_TRUE(document.undo());
    ASSERT_TRUE(document.redo());
    ASSERT_TRUE(document.apply(restorePlaces(document.batch(), {{2, 1}})));
    const test::TemporaryFolder folder;
    ASSERT_TRUE(reportOf(document.batch(), document.history()).writePdf(folder / "r.pdf", QStringLiteral("t")));
    const QString text = pdfText(folder / "r.pdf");
    EXPECT_EQ(text.count(QStringLiteral("bubble in well")), 3); // done, undone, redone
    EXPECT_TRUE(text.contains(QStringLiteral("Undone: C2 (S3) excluded")));
    EXPECT_TRUE(text.contains(QStringLiteral("C2 restored")));
}

TEST(ReportPages, SayWhenThereIsNoCurve) {
    Batch batch = test::sampleDocument().batch();
    for (auto& [number, level] : batch.levels) {
        level.concentration.reset();
    }
    const test::TemporaryFolder folder;
    ASSERT_TRUE(reportOf(batch).writePdf(folder / "r.pdf", QStringLiteral("t")));
    const QString text = pdfText(folder / "r.pdf").simplified();
    EXPECT_TRUE(text.contains(QStringLiteral("Not accepted")));
    EXPECT_TRUE(text.contains(QStringLiteral("S1 has no concentration")));
    EXPECT_FALSE(text.contains(QStringLiteral("nan"))); // no number that is none
}

TEST(ReportFile, ThatCannotBeWrittenIsSaidAndLeavesNothing) {
    const test::TemporaryFolder folder;
    const auto written =
        reportOf(test::sampleDocument().batch()).writePdf(folder / "no" / "r.pdf", QStringLiteral("t"));
    ASSERT_FALSE(written);
    EXPECT_EQ(written.error().code, "report.cannot-write");
    EXPECT_TRUE(std::filesystem::is_empty(folder.path()));
}

TEST(ReportFile, IsNamedByDateAndBatch) {
    Batch batch;
    batch.info.title = "Patulin in juice, week 38";
    EXPECT_EQ(reportFileName(batch, 1'789'382'160'000, QStringLiteral(".pdf")),
              QStringLiteral("2026-09-14_patulin-in-juice-week-38.pdf"));
    batch.info.title = "///";
    EXPECT_EQ(reportFileName(batch, 1'789'382'160'000, QStringLiteral(".pdf")), QStringLiteral("2026-09-14_batch.pdf"));
}

double luminance(const QColor& c) {
    const auto linear = [](double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
    return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
}

double contrast(const QColor& a, const QColor& b) {
    const double la = luminance(a) + 0.05;
    const double lb = luminance(b) + 0.05;
    return std::max(la, lb) / std::min(la, lb);
}

// At least 4.5 : 1 for text (WCAG 2.1, success criterion 1.4.3).
TEST(Themes, HaveEnoughContrastForText) {
    for (const Theme* t : {&lightTheme(), &darkTheme()}) {
        SCOPED_TRACE(t->isDark ? "dark" : "light");
        for (const QColor& surface : {t->card, t->rail}) {
            EXPECT_GE(contrast(t->ink, surface), 4.5);
            EXPECT_GE(contrast(t->mute, surface), 4.5);
        }
        EXPECT_GE(contrast(t->onPlum, t->plum), 4.5);
        EXPECT_GE(contrast(t->ink, t->plumSoft), 4.5);
        for (const Outcome outcome : {Outcome::Pass, Outcome::Review, Outcome::Fail}) {
            EXPECT_GE(contrast(t->outcome(outcome), t->outcomeSoft(outcome)), 4.5) << name(outcome);
        }
        for (double share = 0; share <= 1; share += 0.02) {
            EXPECT_GE(contrast(t->inkOn(t->heat(share)), t->heat(share)), 4.5) << share;
        }
    }
}

TEST(Shown, ReplacesOnlyDecimalPoints) {
    const QLocale before;
    QLocale::setDefault(QLocale(QLocale::German));
    EXPECT_EQ(shown("161.3 to 2.5"), QStringLiteral("161,3 to 2,5"));
    EXPECT_EQ(shown("plate.csv, line 3."), QStringLiteral("plate.csv, line 3."));
    EXPECT_EQ(text("1.5"), QStringLiteral("1.5"));
    QLocale::setDefault(QLocale::c());
    EXPECT_EQ(shown("1.3 %"), QStringLiteral("1.3\u00A0%")); // a number and its percent sign stay on one line
    QLocale::setDefault(before);
}

} // namespace
} // namespace nuvat
