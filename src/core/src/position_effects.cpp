#include "nuvat/core/stats/position_effects.h"

#include "nuvat/core/stats/groups.h"
#include "nuvat/core/stats/median_polish.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <random>

namespace nuvat {

namespace {

constexpr std::size_t kLeastGroups = 8, kLeastLines = 3, kExchanges = 499;

/// Effects of one way to place the values, and how large each kind is.
struct Found {
    MedianPolish polish;
    double edge = 0;
    double rowSize = 0, columnSize = 0;
    std::size_t row = 0, column = 0;
};

class Plate {
public:
    Plate(std::span<const PlacedValue> values, int rows, int columns)
        : m_values(values), m_rows(rows), m_columns(columns), m_inRow(static_cast<std::size_t>(rows)),
          m_inColumn(static_cast<std::size_t>(columns)) {
        std::map<int, std::vector<std::size_t>> groups;
        for (std::size_t i = 0; i < values.size(); ++i) {
            ++m_inRow[static_cast<std::size_t>(values[i].row)];
            ++m_inColumn[static_cast<std::size_t>(values[i].column)];
            groups[values[i].group].push_back(i);
        }
        for (auto& [key, members] : groups) {
            m_bySize[members.size()].push_back(std::move(members));
        }
        m_groups = groups.size();
    }

    bool isEnough() const {
        const auto lines = [](const std::vector<int>& counts) {
            return static_cast<std::size_t>(std::ranges::count_if(counts, [](int count) { return count > 1; }));
        };
        return m_groups >= kLeastGroups && lines(m_inRow) >= kLeastLines && lines(m_inColumn) >= kLeastLines;
    }

    bool isOnEdge(const PlacedValue& one) const {
        return one.row == 0 || one.column == 0 || one.row + 1 == m_rows || one.column + 1 == m_columns;
    }

    /// @param from whose value stands at each place
    Found measure(const std::vector<std::size_t>& from) const {
        std::vector<std::optional<double>> wells(static_cast<std::size_t>(m_rows) *
                                                 static_cast<std::size_t>(m_columns));
        std::vector<double> outer, inner;
        for (std::size_t i = 0; i < m_values.size(); ++i) {
            const double value = m_values[from[i]].value;
            wells[static_cast<std::size_t>(m_values[i].row * m_columns + m_values[i].column)] = value;
            (isOnEdge(m_values[i]) ? outer : inner).push_back(value);
        }
        Found out;
        out.polish = medianPolish(wells, m_rows, m_columns);
        out.edge = outer.empty() || inner.empty() ? 0 : *median(outer) - *median(inner);
        largest(out.polish.rows, m_inRow, out.rowSize, out.row);
        largest(out.polish.columns, m_inColumn, out.columnSize, out.column);
        return out;
    }

    bool hasEdge() const {
        const auto onEdge = std::ranges::count_if(m_values, [&](const PlacedValue& one) { return isOnEdge(one); });
        return onEdge > 0 && static_cast<std::size_t>(onEdge) < m_values.size();
    }

    /// Groups of one size change places.
    std::vector<std::size_t> exchanged(std::mt19937_64& random) const {
        std::vector<std::size_t> from(m_values.size());
        for (const auto& [size, groups] : m_bySize) {
            std::vector<std::size_t> order(groups.size());
            for (std::size_t i = 0; i < order.size(); ++i) { // the same on every machine, unlike std::shuffle
                order[i] = i;
                std::swap(order[i], order[random() % (i + 1)]);
            }
            for (std::size_t i = 0; i < groups.size(); ++i) {
                for (std::size_t k = 0; k < size; ++k) {
                    from[groups[i][k]] = groups[order[i]][k];
                }
            }
        }
        return from;
    }

    const std::vector<int>& inRow() const { return m_inRow; }
    const std::vector<int>& inColumn() const { return m_inColumn; }

private:
    static void largest(const std::vector<double>& effects, const std::vector<int>& counts, double& size,
                        std::size_t& index) {
        for (std::size_t i = 0; i < effects.size(); ++i) {
            const double one = std::abs(effects[i]) * std::sqrt(static_cast<double>(counts[i]));
            if (one > size) {
                size = one;
                index = i;
            }
        }
    }

    std::span<const PlacedValue> m_values;
    int m_rows, m_columns;
    std::vector<int> m_inRow, m_inColumn;
    std::map<std::size_t, std::vector<std::vector<std::size_t>>> m_bySize;
    std::size_t m_groups = 0;
};

std::vector<std::optional<double>> percents(const std::vector<double>& effects, const std::vector<int>& counts,
                                            double overall) {
    std::vector<std::optional<double>> out;
    for (std::size_t i = 0; i < effects.size(); ++i) {
        out.push_back(counts[i] > 0 ? std::optional(100 * effects[i] / overall) : std::nullopt);
    }
    return out;
}

} // namespace

std::optional<PositionEffects> positionEffects(std::span<const PlacedValue> values, int rows, int columns,
                                               Progress& progress) {
    const Plate plate(values, rows, columns);
    if (!plate.isEnough()) {
        return std::nullopt;
    }
    std::vector<std::size_t> asTheyStand(values.size());
    for (std::size_t i = 0; i < values.size(); ++i) {
        asTheyStand[i] = i;
    }
    const Found real = plate.measure(asTheyStand);
    const double overall = real.polish.overall;
    if (overall == 0) {
        return std::nullopt;
    }
    std::mt19937_64 random(20261201);
    std::size_t row = 1, column = 1, edge = 1; // the real one is one of them
    constexpr double kSame = 1 - 1e-12;
    for (std::size_t k = 0; k < kExchanges; ++k) {
        if (progress.cancelled()) {
            return std::nullopt;
        }
        const Found one = plate.measure(plate.exchanged(random));
        row += one.rowSize >= kSame * real.rowSize ? 1u : 0u;
        column += one.columnSize >= kSame * real.columnSize ? 1u : 0u;
        edge += std::abs(one.edge) >= kSame * std::abs(real.edge) ? 1u : 0u;
    }
    const auto share = [](std::size_t count) { return static_cast<double>(count) / (kExchanges + 1); };
    PositionEffects out;
    out.rows = percents(real.polish.rows, plate.inRow(), overall);
    out.columns = percents(real.polish.columns, plate.inColumn(), overall);
    out.row = {real.row, 100 * real.polish.rows[real.row] / overall, share(row)};
    out.column = {real.column, 100 * real.polish.columns[real.column] / overall, share(column)};
    if (plate.hasEdge()) {
        out.edge = {std::nullopt, 100 * real.edge / overall, share(edge)};
    }
    out.p = std::min(1.0, 3 * std::min({out.row.p, out.column.p, out.edge ? out.edge->p : 1}));
    return out;
}

} // namespace nuvat
