#include "nuvat/core/stats/median_polish.h"

#include "nuvat/core/stats/distributions.h"
#include "nuvat/core/stats/groups.h"
#include "nuvat/core/stats/hypothesis.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace nuvat {

namespace {

class Polishing {
public:
    Polishing(const std::vector<std::optional<double>>& values, int rows, int columns)
        : m_rows(static_cast<std::size_t>(rows)), m_columns(static_cast<std::size_t>(columns)) {
        if (rows < 1 || columns < 1 || values.size() != m_rows * m_columns) {
            throw std::invalid_argument("a plate of another size");
        }
        m_out.residuals = values;
        m_out.rows.resize(m_rows);
        m_out.columns.resize(m_columns);
    }

    MedianPolish run(PolishEnd end) {
        double before = 0;
        while (m_out.rounds < end.mostRounds) {
            ++m_out.rounds;
            sweep(m_out.rows, m_out.columns, m_columns, 1);
            sweep(m_out.columns, m_out.rows, 1, m_columns);
            double sum = 0;
            for (const auto& residual : m_out.residuals) {
                sum += std::abs(residual.value_or(0));
            }
            const bool isOver = sum == 0 || std::abs(sum - before) < end.change * sum;
            before = sum;
            if (isOver) {
                break;
            }
        }
        score();
        return std::move(m_out);
    }

private:
    /// Takes the median out of every line; what the medians of the other way have in common goes to the overall.
    /// @param stride from line to line, and @param step within one
    void sweep(std::vector<double>& lines, std::vector<double>& others, std::size_t stride, std::size_t step) {
        for (std::size_t i = 0; i < lines.size(); ++i) {
            std::vector<double> values;
            for (std::size_t k = 0; k < others.size(); ++k) {
                if (const auto& residual = m_out.residuals[i * stride + k * step]) {
                    values.push_back(*residual);
                }
            }
            const double middle = median(values).value_or(0);
            for (std::size_t k = 0; k < others.size(); ++k) {
                if (auto& residual = m_out.residuals[i * stride + k * step]) {
                    *residual -= middle;
                }
            }
            lines[i] += middle;
        }
        const double common = median(others).value_or(0);
        for (double& other : others) {
            other -= common;
        }
        m_out.overall += common;
    }

    void score() {
        std::vector<double> values;
        for (const auto& residual : m_out.residuals) {
            if (residual) {
                values.push_back(*residual);
            }
        }
        constexpr double kToSd = 1.4826; // as published, rather than the exact quantile
        m_out.scaledMad = kToSd * normalQuantile(0.75) * scaledMedianDeviation(values).value_or(0);
        for (const auto& residual : m_out.residuals) {
            m_out.scores.push_back(residual && m_out.scaledMad > 0 ? std::optional(*residual / m_out.scaledMad)
                                                                   : std::nullopt);
        }
    }

    std::size_t m_rows, m_columns;
    MedianPolish m_out;
};

} // namespace

MedianPolish medianPolish(const std::vector<std::optional<double>>& values, int rows, int columns, PolishEnd end) {
    return Polishing(values, rows, columns).run(end);
}

} // namespace nuvat
