#include "panels/series_table.h"

#include "nuvat/batch/command.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/theme.h"
#include "widgets/controls.h"
#include "widgets/data_table.h"

#include <algorithm>
#include <cmath>
#include <QVBoxLayout>

namespace nuvat {

namespace {

std::optional<double> typedNumber(const QString& typed) {
    return parseNumber(QString(typed).trimmed().replace(u',', u'.').toStdString());
}

} // namespace

SeriesWords seriesOf(const Batch& batch, int analyte) {
    SeriesWords out;
    while (batch.concentration(out.levels + 1, analyte)) {
        ++out.levels;
    }
    if (out.levels == 0) {
        return out;
    }
    out.first = batch.concentration(1, analyte);
    if (out.levels > 1 && *batch.concentration(2, analyte) > 0) {
        const double step = *out.first / *batch.concentration(2, analyte);
        bool isSteady = step != 1;
        for (int level = 2; level < out.levels; ++level) {
            const double next = *batch.concentration(level, analyte) / *batch.concentration(level + 1, analyte);
            isSteady = isSteady && std::abs(next / step - 1) < 1e-6;
        }
        out.step = isSteady ? std::optional(step) : std::nullopt;
    }
    return out;
}

SeriesTable::SeriesTable(Workspace& workspace, QWidget* parent) : QWidget(parent), m_workspace(workspace) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    m_model = new ColumnsModel(
        columns(), [this] { return static_cast<int>(m_workspace.batch().method.analytes.size()); }, this);
    m_table = new DataTable(m_model, QStringLiteral("seriesTable"), this);
    layout->addWidget(m_table);
    connect(m_table, &DataTable::rowChosen, this, [this](int row) { m_workspace.showAnalyte(row + 1); });
}

/// As many levels as there are standards, or as the analytes have.
int SeriesTable::levels() const {
    const Batch& batch = m_workspace.newest();
    int most = static_cast<int>(m_workspace.index().numbersOf(Role::Standard).size());
    for (int analyte = 1; analyte <= static_cast<int>(batch.method.analytes.size()); ++analyte) {
        most = std::max(most, seriesOf(batch, analyte).levels);
    }
    return most;
}

bool SeriesTable::setSeriesOf(int analyte, std::optional<double> first, std::optional<double> step) {
    const SeriesWords now = seriesOf(m_workspace.newest(), analyte);
    Series series;
    series.first = first.value_or(now.first.value_or(0));
    const double by = step.value_or(now.step.value_or(2));
    series.isDivided = by > 1;
    series.factor = by > 1 ? by : by > 0 ? 1 / by : 0;
    series.levels = levels();
    return m_workspace.apply(setSeries(m_workspace.newest(), series, analyte));
}

bool SeriesTable::setName(int row, std::string Analyte::*member, const QString& typed) {
    Method method = m_workspace.newest().method;
    method.analyte(row + 1).*member = typed.trimmed().toStdString();
    return m_workspace.apply(setMethod(m_workspace.newest(), method));
}

std::vector<ColumnSpec> SeriesTable::columns() {
    const auto always = [](int) { return true; };
    const auto number = [](const std::optional<double>& value) -> QVariant {
        return value ? shown(formatFigures(*value, 4)) : notDefined();
    };
    std::vector<ColumnSpec> out;
    out.push_back({tr("Analyte"), false, 0,
                   [this](int row) -> QVariant { return text(m_workspace.batch().method.analyte(row + 1).name); },
                   [this](int row, int role) {
                       return role == cell::kBold ? QVariant(row + 1 == m_workspace.analyteNumber()) : QVariant();
                   },
                   always, [this](int row, const QString& typed) { return setName(row, &Analyte::name, typed); }});
    out.push_back({tr("S1"),
                   true,
                   78,
                   [this, number](int row) { return number(seriesOf(m_workspace.batch(), row + 1).first); },
                   {},
                   always,
                   [this](int row, const QString& typed) {
                       const auto value = typedNumber(typed);
                       return value && setSeriesOf(row + 1, value, std::nullopt);
                   }});
    out.push_back({tr("each next ÷"),
                   true,
                   84,
                   [this, number](int row) { return number(seriesOf(m_workspace.batch(), row + 1).step); },
                   {},
                   always,
                   [this](int row, const QString& typed) {
                       const auto value = typedNumber(typed);
                       return value && setSeriesOf(row + 1, std::nullopt, value);
                   }});
    out.push_back({tr("Levels"), true, 60,
                   [this](int row) -> QVariant { return seriesOf(m_workspace.batch(), row + 1).levels; }});
    out.push_back({tr("Unit"),
                   false,
                   70,
                   [this](int row) -> QVariant { return text(m_workspace.batch().method.analyte(row + 1).unit); },
                   {},
                   always,
                   [this](int row, const QString& typed) { return setName(row, &Analyte::unit, typed); }});
    return out;
}

void SeriesTable::refresh() {
    m_model->refresh();
    m_table->showRow(m_workspace.analyteNumber() - 1);
}

} // namespace nuvat
