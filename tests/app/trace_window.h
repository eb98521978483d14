#pragma once

#include "kinds/trace/run_strip.h"
#include "plots/trace_plot.h"
#include "window_fixture.h"

#include <cmath>
#include <fstream>
#include <gtest/gtest.h>
#include <QApplication>
#include <QMouseEvent>
#include <QTest>
#include <random>

namespace nuvat::test {

/// The window with runs of traces.
class TraceWindow : public test::WindowTest {
protected:
    void start(const std::string& demoName) {
        auto demo = demoBatch(demoName, m_folder / (demoName + ".nuvat"));
        ASSERT_TRUE(demo) << demo.error().text();
        m_workspace->open(std::move(*demo));
        wait();
    }
    void startEsters() { start("esters"); }
    /// A file of one run: two peaks, at 2 and 4 min, of such heights.
    std::filesystem::path runFile(const std::string& name, double first, double second, unsigned seed) const {
        std::mt19937 random(seed);
        std::normal_distribution<double> noise(0, 0.02);
        std::ofstream out(m_folder / name);
        out << "time (min),signal (mV)\n";
        for (int i = 0; i <= 600; ++i) {
            const double t = 0.01 * i;
            const auto gauss = [t](double at) { return std::exp(-std::pow((t - at) / 0.06, 2) / 2); };
            out << t << ',' << 1 + first * gauss(2) + second * gauss(4) + noise(random) << '\n';
        }
        return m_folder / name;
    }

    TracePlot& plot() const { return *find<TracePlot>("responseTrace"); }
    const AnalyteEvaluation& evaluation() const { return m_workspace->evaluation(); }
    /// Of the peak itself, before it is divided by the internal standard.
    double areaOf(int row) const {
        const Response& response = evaluation().at({row, 0});
        return (response.own ? response.own : response.raw).value_or(NAN);
    }

    void clickRun(const char* strip, int row) const {
        auto* list = find<RunStrip>(strip);
        QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->rowRect(row).center());
        wait();
    }
    const Peak& peakOf(int row, int analyte) const {
        const auto& measured = *m_workspace->wholeEvaluation().traces.at({1, Place{row, 0}, "signal"});
        const double apex = m_workspace->wholeEvaluation().analyte(analyte).at({row, 0}).position.value_or(NAN);
        for (const Peak& peak : measured.features.peaks) {
            if (peak.apex == apex) {
                return peak;
            }
        }
        ADD_FAILURE() << "no peak of analyte " << analyte << " in run " << row;
        return measured.features.peaks.front();
    }
    std::size_t peaksIn(int row) const {
        return m_workspace->wholeEvaluation().traces.at({1, Place{row, 0}, "signal"})->features.peaks.size();
    }
};

} // namespace nuvat::test
