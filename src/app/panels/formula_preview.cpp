#include "panels/formula_preview.h"

#include "nuvat/batch/value_formula.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"

#include <cmath>
#include <QCoreApplication>

namespace nuvat {

namespace {

/// What the formula gives at a place; nothing where a channel has no number there.
std::optional<double> valueAt(const Batch& batch, const ValueFormula& formula, Place place) {
    std::vector<double> values;
    for (const std::string& channel : formula.channels()) {
        const Reading* reading = batch.reading(place.carrier, channel);
        const auto grid = reading == nullptr ? nullptr : reading->payload.grid();
        const ReadingWell* well = grid == nullptr ? nullptr : grid->at(place.row, place.column);
        if (well == nullptr || !well->value) {
            return std::nullopt;
        }
        values.push_back(*well->value);
    }
    const double value = formula.value(values);
    return std::isfinite(value) ? std::optional(value) : std::nullopt;
}

} // namespace

FormulaPreview previewOf(const Batch& batch, const std::string& formula, std::span<const Place> places) {
    constexpr qsizetype kMost = 3;
    if (formula.empty()) {
        return {};
    }
    const auto parsed = ValueFormula::parse(formula, batch.channels());
    if (!parsed) {
        return {text(parsed.error().message), true};
    }
    if (parsed->channels().empty()) {
        return {QCoreApplication::translate("FormulaPreview", "It names nothing that was read."), true};
    }
    QStringList shownValues;
    for (const bool hasRole : {true, false}) { // those without a role last
        for (auto place = places.begin(); place != places.end() && shownValues.size() < kMost; ++place) {
            const bool isOne = (batch.at(*place).role != Role::Empty) == hasRole;
            if (const auto value = isOne ? valueAt(batch, *parsed, *place) : std::nullopt) {
                shownValues << text(shortPlaceName(batch, *place)) + u' ' + shown(formatFigures(*value, 4));
            }
        }
    }
    return {shownValues.isEmpty()
                ? QCoreApplication::translate("FormulaPreview", "It gives no number where something was read.")
                : shownValues.join(QStringLiteral(" · ")),
            shownValues.isEmpty()};
}

} // namespace nuvat
