// Lists that come from files, pasted blocks and dialogs: analytes, runs, how standards are made.
#include "dialogs/exchange.h"
#include "dialogs/run_dialogs.h"
#include "nuvat/batch/name_rules.h"
#include "nuvat/batch/run_list.h"
#include "nuvat/batch/standard_plan.h"
#include "nuvat/formats/any_file.h"
#include "nuvat/workflow/list_files.h"
#include "theme/style.h"

#include <QFileInfo>

namespace nuvat {

/// The bytes of a list, nothing when cancelled or not readable, which was said.
std::optional<std::string> Exchange::askList(const QString& title, QString& name) {
    const auto path =
        m_dialogs.openFile(m_parent, title, QObject::tr("Lists (*.csv *.tsv *.txt *.xlsx *.ods);;All files (*)"));
    if (!path) {
        return std::nullopt;
    }
    NoProgress progress;
    const auto bytes = readFileBytes(pathOf(*path), progress);
    if (!bytes) {
        m_workspace.tell(bytes.error());
        return std::nullopt;
    }
    name = QFileInfo(*path).fileName();
    return *bytes;
}

void Exchange::takeAnalytes() {
    QString name;
    if (const auto bytes = askList(QObject::tr("Take analytes from a list"), name)) {
        const auto list = analytesFromText(*bytes, name.toStdString());
        m_workspace.apply(list ? setAnalytes(m_workspace.newest(), *list)
                               : Result<Command>(tl::unexpected(list.error())));
    }
}

void Exchange::useRuns(Result<std::vector<PlannedRun>> runs) {
    if (!runs) {
        m_workspace.tell(runs.error());
        return;
    }
    if (!m_workspace.apply(nuvat::planRuns(m_workspace.newest(), *runs))) {
        return;
    }
    const Batch& batch = m_workspace.newest();
    for (auto it = batch.carriers.rbegin(); it != batch.carriers.rend(); ++it) {
        if (it->second.kind != CarrierKind::RunList) {
            continue;
        }
        const auto problems = listProblems(batch, it->first);
        const QString said =
            problems.empty() ? QObject::tr("Nothing speaks against starting it.")
            : problems.size() == 1
                ? shown(problems.front())
                : QObject::tr("%1 And %2 more to look at.").arg(shown(problems.front())).arg(problems.size() - 1);
        m_workspace.tell(QObject::tr("%1 runs planned. %2").arg(runs->size()).arg(said), false);
        m_workspace.afterwards([this, number = it->first] { m_workspace.showCarrier(number); });
        return;
    }
}

void Exchange::planRuns() {
    QString name;
    if (const auto bytes = askList(QObject::tr("Plan runs from a list"), name)) {
        useRuns(runsFromText(*bytes, name.toStdString(), m_workspace.newest().method.nameRules));
    }
}

void Exchange::buildRunList() {
    if (auto runs = askRunList(m_parent, m_workspace.newest())) {
        useRuns(std::move(*runs));
    }
}

void Exchange::planStandards() {
    if (const auto plan = askPlan(m_parent, m_workspace.newest())) {
        m_workspace.apply(setPlan(m_workspace.newest(), *plan));
    }
}

void Exchange::setNameRules() {
    if (auto rules = askNameRules(m_parent, m_workspace.newest().method)) {
        Method method = m_workspace.newest().method;
        method.nameRules = std::move(*rules);
        m_workspace.apply(setMethod(m_workspace.newest(), method));
    }
}

void Exchange::takeRolesFromNames() {
    m_workspace.apply(rolesFromNames(m_workspace.newest(), m_workspace.carrierNumber()));
}

void Exchange::setRunRule() {
    if (const auto rule = askRunRule(m_parent, m_workspace.newest().method.runRule)) {
        Method method = m_workspace.newest().method;
        method.runRule = *rule;
        m_workspace.apply(setMethod(m_workspace.newest(), method));
    }
}

void Exchange::repeatDiluted() {
    m_workspace.apply(
        planDilutedAgain(m_workspace.newest(), m_workspace.wholeEvaluation(), m_workspace.analyteNumber()));
}

void Exchange::applyToAll() {
    const SharedTerms all{.unit = true, .fit = true, .window = true, .limits = true, .figure = true};
    m_workspace.apply(nuvat::applyToAll(m_workspace.newest(), m_workspace.analyteNumber(), all));
}

void Exchange::groupChannelsByName() {
    m_workspace.apply(nuvat::groupChannelsByName(m_workspace.newest()));
}

void Exchange::groupChannelsByTwo() {
    m_workspace.apply(groupChannels(m_workspace.newest(), 2));
}

void Exchange::groupChannelsByThree() {
    m_workspace.apply(groupChannels(m_workspace.newest(), 3));
}

void Exchange::swapQuantifier() {
    m_workspace.apply(nuvat::swapQuantifier(m_workspace.newest(), m_workspace.analyteNumber(), 0));
}

bool Exchange::pasteList(const std::string& pasted, bool isOfRuns) {
    const std::string name = "pasted block";
    if (!isOfRuns) {
        if (!isListOfAnalytes(pasted)) {
            return false;
        }
        const auto list = analytesFromText(pasted, name);
        m_workspace.apply(list ? setAnalytes(m_workspace.newest(), *list)
                               : Result<Command>(tl::unexpected(list.error())));
        return true;
    }
    if (!isListOfRuns(pasted)) {
        return false;
    }
    auto runs = runsFromText(pasted, name, m_workspace.newest().method.nameRules);
    useRuns(std::move(runs));
    return true;
}

} // namespace nuvat
