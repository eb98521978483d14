// How the standards are made: what is pipetted for each level.
#include "plan_block.h"

#include "nuvat/batch/standard_plan.h"
#include "nuvat/core/base/number.h"

namespace nuvat {

void addPlan(Pages& pages, const Content& c) {
    if (!c.batch.method.plan) {
        return;
    }
    const StandardPlan& plan = *c.batch.method.plan;
    const QString unit = text(plan.volumeUnit);
    const auto planned = plannedStandards(c.batch);
    pages.title(QStringLiteral("How the standards are made"), 4 * kRow);
    if (!planned) {
        addSentences(pages, {text(planned.error().message)});
        return;
    }
    addSentences(pages, {QStringLiteral("Stock: %1%2 %3; %4 %5 of it are needed.")
                             .arg(plan.stockName.empty() ? QString() : text(plan.stockName) + QStringLiteral(", "),
                                  number(plan.rules.stock, 6), text(c.batch.method.analyte().unit),
                                  number(planned->plan.stockNeeded, 4), unit)});
    std::vector<QStringList> rows;
    QStringList warnings;
    for (std::size_t i = 0; i < planned->numbers.size(); ++i) {
        const PlannedLevel& level = planned->plan.levels[i];
        const QString name = QStringLiteral("S%1").arg(planned->numbers[i]);
        for (std::size_t step = 0; step < std::max<std::size_t>(1, level.steps.size()); ++step) {
            const bool hasStep = step < level.steps.size();
            const bool isFirst = step == 0, isLast = step + 1 >= level.steps.size();
            const auto diluent = hasStep ? std::optional(level.steps[step].diluentVolume) : level.diluentVolume;
            rows.push_back(
                {isFirst ? name : QString(), isLast ? number(level.concentration, 5) : QString(),
                 !level.isPossible() ? QStringLiteral("not possible")
                                     : shown(takeText(*planned, i, step, plan.volumeUnit)),
                 diluent ? number(*diluent, 4) + QStringLiteral(" ") + unit : QStringLiteral("–"),
                 level.relativeSe && isLast ? shown(formatPercent(100 * *level.relativeSe)) : QStringLiteral("–")});
        }
        for (const std::string& warning : level.warnings) {
            warnings << name + QStringLiteral(": ") + shown(warning);
        }
    }
    pages.table({{QStringLiteral("Level"), 60, false, true},
                 {QStringLiteral("Concentration"), 90},
                 {QStringLiteral("Take"), 170, false},
                 {QStringLiteral("Diluent"), 100},
                 {QStringLiteral("Standard uncertainty"), 79}},
                rows);
    addSentences(pages, warnings);
}

} // namespace nuvat
