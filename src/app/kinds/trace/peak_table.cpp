#include "kinds/trace/peak_table.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/units.h"
#include "nuvat/report/theme.h"
#include "widgets/controls.h"

#include <algorithm>
#include <QEvent>

namespace nuvat {

namespace {

// Columns of the table.
constexpr std::size_t kStart = 2, kEnd = 3, kCharge = 6, kPercent = 7, kWidth = 8, kTailing = 9, kPlates = 10,
                      kResolution = 11, kRemark = 12;

bool isChargeAsked(const Batch& batch) {
    return std::ranges::any_of(batch.method.analytes, [](const Analyte& analyte) {
        const auto* rule = std::get_if<PeakRule>(&analyte.source.rule);
        return rule && rule->quantity == PeakQuantity::Charge;
    });
}

} // namespace

QString remarkText(const Peak& peak) {
    QStringList out;
    for (const PeakRemark remark : peak.remarks) {
        switch (remark) {
        case PeakRemark::CutByEnd:
            out << PeakTable::tr("cut by the end of the trace");
            break;
        case PeakRemark::Saturated:
            out << PeakTable::tr("flat top");
            break;
        case PeakRemark::TouchesIgnored:
            out << PeakTable::tr("touches what is ignored");
            break;
        case PeakRemark::NoApex:
            out << PeakTable::tr("no apex inside");
            break;
        }
    }
    return out.join(QStringLiteral("; "));
}

PeakTable::PeakTable(Workspace& workspace, const QString& name, QWidget* parent)
    : QObject(parent), m_workspace(workspace), m_look(TraceLook::of(workspace)) {
    m_model = new ColumnsModel(
        columns(), [this] { return m_measured ? static_cast<int>(m_measured->features.peaks.size()) : 0; }, this);
    m_table = new DataTable(m_model, name, parent);
    m_table->viewport()->installEventFilter(this);
    connect(m_table, &DataTable::rowChosen, this, [this](int row) {
        if (m_analytes.at(static_cast<std::size_t>(row)) > 0) {
            m_workspace.showAnalyte(m_analytes[static_cast<std::size_t>(row)]);
        }
        Q_EMIT chosen(row);
    });
}

const Peak& PeakTable::peak(int row) const {
    return m_measured->features.peaks.at(static_cast<std::size_t>(row));
}

QString PeakTable::nameOf(int row) const {
    const int analyte = m_analytes.at(static_cast<std::size_t>(row));
    return analyte > 0 ? text(m_workspace.batch().method.analyte(analyte).name) : tr("not named");
}

ColumnSpec PeakTable::numberColumn(const QString& heading, int width,
                                   std::function<std::optional<double>(const Peak&)> value, int figures) {
    return {heading, true, width, [this, value, figures](int row) -> QVariant {
                const auto number = value(peak(row));
                return number ? shown(formatFigures(*number, figures)) : notDefined();
            }};
}

std::vector<ColumnSpec> PeakTable::columns() {
    const auto some = [](double Peak::*field) { return [field](const Peak& p) { return std::optional(p.*field); }; };
    const auto maybe = [](std::optional<double> Peak::*field) { return [field](const Peak& p) { return p.*field; }; };
    std::vector<ColumnSpec> out;
    out.push_back({tr("Peak"), false, 0, [this](int row) -> QVariant { return nameOf(row); },
                   [this](int row, int role) {
                       const int analyte = m_analytes.at(static_cast<std::size_t>(row));
                       return role == cell::kBold    ? QVariant(analyte == m_workspace.analyteNumber())
                              : role == cell::kMuted ? QVariant(analyte == 0)
                                                     : QVariant();
                   }});
    out.push_back(numberColumn(tr("Apex"), 70, some(&Peak::apex), 5));
    out.push_back(numberColumn(tr("Start"), 58, some(&Peak::start), 4));
    out.push_back(numberColumn(tr("End"), 58, some(&Peak::end), 4));
    out.push_back(numberColumn(tr("Height"), 72, some(&Peak::height), 4));
    out.push_back(numberColumn(tr("Area"), 68, some(&Peak::area), 4));
    out.push_back(numberColumn(
        tr("Charge, C"), 84,
        [this](const Peak& p) {
            return m_measured->chargeFactor ? std::optional(p.area * *m_measured->chargeFactor) : std::nullopt;
        },
        4));
    out.push_back(numberColumn(tr("Area, %"), 60, maybe(&Peak::areaPercent), 3));
    out.push_back(numberColumn(tr("W½"), 64, maybe(&Peak::width50), 3));
    out.push_back(numberColumn(tr("Tailing"), 58, maybe(&Peak::tailing5), 3));
    out.push_back(numberColumn(tr("Plates"), 58, maybe(&Peak::platesHalf), 4));
    out.push_back(numberColumn(tr("Resol."), 54, maybe(&Peak::resolutionHalf), 3));
    out.push_back({tr("Remark"), false, 120, [this](int row) -> QVariant { return remarkText(peak(row)); }});
    return out;
}

/// Columns that have no room are left out, those first that are asked for least; what is copied has them all.
void PeakTable::fitColumns() {
    constexpr int kName = 112;
    const auto specs = m_model->columns();
    const bool hasRemark =
        m_measured && std::ranges::any_of(m_measured->features.peaks, [](const Peak& p) { return !p.remarks.empty(); });
    std::vector<bool> isShown(specs.size(), true);
    // An area over time is a charge as well, but a detector's current is none that anybody asks for.
    isShown[kCharge] = m_measured && m_measured->chargeFactor &&
                       (converted(1, unitSymbol(m_measured->xUnit), "V") || isChargeAsked(m_workspace.batch()));
    isShown[kRemark] = hasRemark;
    int needed = kName;
    for (std::size_t i = 1; i < specs.size(); ++i) {
        needed += isShown[i] ? specs[i].width : 0;
    }
    for (const std::size_t column : {kPlates, kEnd, kStart, kTailing, kWidth, kPercent, kResolution}) {
        if (needed > m_table->viewport()->width() && isShown[column]) {
            isShown[column] = false;
            needed -= specs[column].width;
        }
    }
    m_table->showColumns(isShown);
}

bool PeakTable::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::Resize) {
        fitColumns();
    }
    return QObject::eventFilter(watched, event);
}

void PeakTable::refresh() {
    m_measured = m_look.measured(m_look.run());
    m_analytes = m_look.analytesOfPeaks(m_look.run());
    m_model->refresh();
    fitColumns();
    showAnalyte();
}

void PeakTable::showAnalyte() {
    const auto own = std::ranges::find(m_analytes, m_workspace.analyteNumber());
    m_table->showRow(own == m_analytes.end() ? -1 : static_cast<int>(own - m_analytes.begin()));
}

} // namespace nuvat
