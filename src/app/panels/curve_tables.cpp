// The tables under the curve: standards with their errors, parameters with their intervals.
#include "models/columns_model.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/distributions.h"
#include "panels/curve_page.h"
#include "theme/style.h"
#include "widgets/controls.h"
#include "widgets/data_table.h"

#include <algorithm>
#include <QVBoxLayout>

namespace nuvat {

const StandardValue& CurvePage::standardAt(int row) const {
    return m_workspace.curve().standards.at(static_cast<std::size_t>(row));
}

QWidget* CurvePage::makeStandards() {
    const auto number = [](const std::optional<double>& value, int figures) {
        return value ? shown(formatFigures(*value, figures)) : notDefined();
    };
    const auto mutedWhenOut = [this](int row, int role) {
        return role == cell::kMuted ? QVariant(!standardAt(row).isUsed) : QVariant();
    };
    m_standards = new ColumnsModel(
        {{tr("Place"), false, 98,
          [this](int row) {
              const Assignment group = m_workspace.batch().at(standardAt(row).place);
              return QStringLiteral("%1  %2%3")
                  .arg(group.role == Role::Standard ? QStringLiteral("S%1").arg(standardAt(row).level)
                                                    : text(shortName(m_workspace.batch(), group)),
                       text(shortPlaceName(m_workspace.batch(), standardAt(row).place)),
                       standardAt(row).isUsed ? QString() : tr("  out"));
          },
          [this](int row, int role) {
              return role == cell::kBold    ? QVariant(true)
                     : role == cell::kMuted ? QVariant(!standardAt(row).isUsed)
                                            : QVariant();
          }},
         {tr("Nominal"), true, 60, [this, number](int row) { return number(standardAt(row).x, 4); }, mutedWhenOut},
         {tr("Response"), true, 66, [this, number](int row) { return number(standardAt(row).y, 4); }, mutedWhenOut},
         {tr("Back-calc."), true, 76, [this, number](int row) { return number(standardAt(row).backCalculated, 4); },
          mutedWhenOut},
         {tr("Error, %"), true, 0,
          [this](int row) {
              const auto error = standardAt(row).errorPercent;
              return (error ? (*error > 0 ? QStringLiteral("+") : QString()) + shown(formatDecimals(*error, 1))
                            : notDefined());
          },
          [this](int row, int role) { // that of an anchor is not judged
              const LevelKey level{standardAt(row).level, m_workspace.analyteNumber()};
              return role == cell::kMuted ? QVariant(!standardAt(row).isUsed || isAnchor(m_workspace.batch(), level))
                                          : QVariant();
          }}},
        [this] { return static_cast<int>(m_workspace.curve().standards.size()); }, this);
    auto* standardsCard = new Card({}, this);
    standardsCard->body()->setContentsMargins(6, 4, 4, 6);
    m_standardsTable = new DataTable(m_standards, QStringLiteral("standardsTable"), standardsCard);
    m_standardsTable->setRowHeight(23);
    standardsCard->body()->addWidget(m_standardsTable);
    standardsCard->setFixedHeight(166);
    return standardsCard;
}

QWidget* CurvePage::makeParameters() {
    const auto fitNow = [this]() -> const Fit& { return m_workspace.curve().fit; };
    // Without degrees of freedom there is neither SE nor interval.
    const auto half = [this, fitNow](int row) -> double {
        const Fit& fit = fitNow();
        return fit.df > 0 ? studentFactor(m_workspace.batch().method.confidence, fit.df) *
                                fit.se[static_cast<std::size_t>(row)]
                          : 0;
    };
    m_parameters = new ColumnsModel(
        {{tr("Term"), false, 0,
          [this, fitNow](int row) {
              QString title = text(parameterTitle(fitNow().model, static_cast<std::size_t>(row)));
              if (fitNow().parameterNames[static_cast<std::size_t>(row)] == "c" &&
                  !m_workspace.analyte().unit.empty()) {
                  title += QStringLiteral(", ") + text(m_workspace.analyte().unit);
              }
              return title;
          }},
         {tr("Value"), true, -66,
          [fitNow, half](int row) {
              const double v = fitNow().parameters[static_cast<std::size_t>(row)];
              return shown(formatFigures(v, std::max(4, figuresForInterval(v, half(row)))));
          }},
         {tr("SE"), true, -54,
          [fitNow, half](int row) {
              return half(row) > 0 ? shown(formatFigures(fitNow().se[static_cast<std::size_t>(row)], 2)) : notDefined();
          }},
         {tr("95 % interval"), true, -108,
          [fitNow, half](int row) {
              const double v = fitNow().parameters[static_cast<std::size_t>(row)];
              return shown(intervalText(v, v - half(row), v + half(row)));
          }}},
        [fitNow] { return fitNow().isUsable() ? static_cast<int>(fitNow().size()) : 0; }, this);
    auto* parametersCard = new Card({}, this);
    parametersCard->body()->setContentsMargins(6, 4, 4, 6);
    auto* parametersTable = new DataTable(m_parameters, QStringLiteral("parametersTable"), parametersCard);
    parametersTable->setRowHeight(22);
    parametersCard->body()->addWidget(parametersTable);
    m_quality = makeLabel({}, "mute", parametersCard);
    m_quality->setObjectName(QStringLiteral("fitQuality"));
    m_quality->setContentsMargins(8, 0, 0, 0);
    parametersCard->body()->addWidget(m_quality);
    parametersCard->setFixedHeight(166);
    m_whereRoom.push_back(parametersCard);
    return parametersCard;
}

} // namespace nuvat
