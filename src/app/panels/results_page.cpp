#include "panels/results_page.h"

#include "jobs/job.h"
#include "nuvat/batch/readings_before.h"
#include "nuvat/batch/result_table.h"
#include "nuvat/batch/verdict.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "panels/result_settings.h"
#include "theme/style.h"
#include "widgets/carrier_view.h"
#include "widgets/controls.h"
#include "widgets/data_table.h"
#include "widgets/decision_picture.h"
#include "widgets/live_form.h"

#include <algorithm>
#include <iterator>
#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QMenu>
#include <QStackedLayout>
#include <QVBoxLayout>

namespace nuvat {

namespace {

bool isToReview(const SampleResult& result) {
    return statusOutcome(result) != Outcome::Pass;
}

} // namespace

ResultsPage::ResultsPage(Workspace& workspace, QWidget* parent) : Page(workspace, parent) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(frame::kPage, 12, frame::kPage, 12);
    outer->setSpacing(frame::kGap);
    outer->addLayout(makeTop());
    outer->addWidget(makeTable(), 1);
    outer->addLayout(makeSummary());
    m_settings = new ResultSettings(workspace, this);
    m_settings->hide();

    connect(m_table, &DataTable::rowChosen, this, [this](int row) { m_workspace.selectGroup(at(row).group); });
    connect(m_table, &DataTable::rowHovered, this, [this](int row) {
        m_workspace.hover(row < 0 || row >= m_results->rowCount() || at(row).replicates.empty()
                              ? std::nullopt
                              : std::optional(at(row).replicates.front().place));
    });
}

QLayout* ResultsPage::makeTop() {
    auto* top = new QHBoxLayout;
    top->setSpacing(8);
    constexpr std::array<const char*, 4> kNames{"filterAll", "filterUnknown", "filterQc", "filterReview"};
    for (int i = 0; i < 4; ++i) {
        auto* button = makeButton({}, "normal", QString::fromLatin1(kNames[static_cast<std::size_t>(i)]), this);
        button->setCheckable(true);
        button->setAutoExclusive(true);
        button->setChecked(i == 0);
        connect(button, &QPushButton::clicked, this, [this, i] {
            m_filter = static_cast<Filter>(i);
            applyFilter();
        });
        top->addWidget(button);
        m_filters.push_back(button);
    }
    top->addStretch();
    m_rowsOf = new Segments({tr("Samples"), tr("Replicates"), tr("Plate")}, this);
    m_rowsOf->setObjectName(QStringLiteral("resultsBy"));
    m_rowsOf->setCurrent(0);
    connect(m_rowsOf, &Segments::chosen, this, [this](int index) { showRows(static_cast<Rows>(index)); });
    top->addWidget(m_rowsOf);
    auto* columns = makeButton(tr("Columns"), "normal", QStringLiteral("resultsColumns"), this);
    m_columnsMenu = new QMenu(columns);
    connect(m_columnsMenu, &QMenu::aboutToShow, this, &ResultsPage::fillColumnsMenu);
    columns->setMenu(m_columnsMenu);
    columns->setToolTip(tr("Which columns there are; dragging a heading changes their order. Kept in the method"));
    top->addWidget(columns);
    auto* csv = makeButton(tr("Export CSV…"), "normal", QStringLiteral("resultsExport"), this);
    setPicture(csv, QStringLiteral("file-spreadsheet"));
    connect(csv, &QPushButton::clicked, this, [this] { Q_EMIT actionAsked(QStringLiteral("results.export")); });
    top->addWidget(csv);
    return top;
}

QWidget* ResultsPage::makeTable() {
    m_results = new ColumnsModel(
        {},
        [this] {
            // Hidden, the page may be behind a batch with fewer results.
            const auto& results = m_workspace.evaluation().results;
            const bool isBehind = !m_rows.empty() && m_rows.back().result >= results.size();
            return isBehind ? 0 : static_cast<int>(m_rows.size());
        },
        this);
    auto* card = new Card({}, this);
    card->body()->setContentsMargins(6, 4, 6, 6);
    m_stack = new QStackedLayout;
    card->body()->addLayout(m_stack, 1);
    m_table = new DataTable(m_results, QStringLiteral("resultsTable"), card);
    m_table->setColumnsMovable();
    connect(m_table, &DataTable::columnMoved, this, &ResultsPage::takeOrder);
    m_plate = new CarrierView(m_workspace, ViewMode::HeatAndNumber, QStringLiteral("resultsPlate"), card);
    m_plate->setQuantity(PlateQuantity::Concentration);
    m_empty = makeLabel(tr("No samples yet: assign QCs and unknowns under Layout, and their results stand here."),
                        "mute", card);
    m_empty->setAlignment(Qt::AlignCenter);
    for (QWidget* widget : std::initializer_list<QWidget*>{m_table, m_plate, m_empty}) {
        m_stack->addWidget(widget);
    }
    return card;
}

QLayout* ResultsPage::makeSummary() {
    auto* bottom = new QHBoxLayout;
    bottom->setSpacing(frame::kGap);
    auto* countsCard = new Card(tr("Unknowns"), this);
    m_counts = makeLabel({}, "value", countsCard);
    m_counts->setObjectName(QStringLiteral("resultCounts"));
    m_counts->setWordWrap(true);
    countsCard->body()->addWidget(m_counts);
    countsCard->body()->addStretch();
    m_batchCard = new Card(tr("Batch"), this);
    m_batch = makeLabel({}, "value", m_batchCard);
    m_batch->setWordWrap(true);
    m_batchCard->body()->addWidget(m_batch);
    m_batchCard->body()->addStretch();
    m_combinedCard = new Card(tr("Dilutions taken together"), this);
    m_combined = addScrollingText(*m_combinedCard, QStringLiteral("resultsCombined"));
    m_decisionCard = new Card(tr("Decision classes"), this);
    auto* sides = new QHBoxLayout;
    m_classes = makeLabel({}, "value", m_decisionCard);
    m_classes->setObjectName(QStringLiteral("resultClasses"));
    m_classes->setTextFormat(Qt::RichText);
    m_picture = new DecisionPicture(m_workspace, m_decisionCard);
    sides->addWidget(m_classes, 0, Qt::AlignTop);
    sides->addWidget(m_picture, 1);
    m_decisionCard->body()->addLayout(sides, 1);
    constexpr int kHighest = 148; // the table is the page
    constexpr int kNarrowest = 170;
    for (Card* card : {countsCard, m_decisionCard, m_combinedCard, m_batchCard}) {
        card->setMaximumHeight(kHighest);
        card->setMinimumWidth(kNarrowest);
        bottom->addWidget(card, card == m_combinedCard || card == m_decisionCard ? 4 : 3);
    }
    return bottom;
}

void ResultsPage::showRows(Rows rows) {
    m_by = rows;
    refresh();
    Q_EMIT factsChanged();
}

QWidget* ResultsPage::settings() const {
    return m_settings;
}

void ResultsPage::enterSettings() {
    m_settings->enter();
}

std::vector<PageAction> ResultsPage::actions() {
    return {{QStringLiteral("results.by"), tr("Results by sample, by replicate or as a plate"), {Qt::Key_V}, [this] {
                 const int next = (static_cast<int>(m_by) + 1) % 3;
                 m_rowsOf->setCurrent(next);
                 showRows(static_cast<Rows>(next));
             }}};
}

/// A tick for each column, in the order in which they are known.
void ResultsPage::fillColumnsMenu() {
    m_columnsMenu->clear();
    const Batch& batch = m_workspace.batch();
    const std::vector<std::string> keys = resultColumnKeys(batch, m_workspace.evaluation());
    for (const ResultColumn& column : allResultColumns(batch, m_workspace.evaluation())) {
        QAction* action = m_columnsMenu->addAction(text(column.title));
        action->setObjectName(QStringLiteral("column_") + text(column.key));
        action->setCheckable(true);
        action->setChecked(std::ranges::find(keys, column.key) != keys.end());
        action->setEnabled(column.key != "place");
        connect(action, &QAction::triggered, this, [this, keys, key = column.key, title = column.title](bool isOn) {
            std::vector<std::string> changed = keys;
            std::erase(changed, key);
            if (isOn) {
                changed.push_back(key);
            }
            chooseColumns(std::move(changed), "Results " + std::string(isOn ? "with " : "without ") + title);
        });
    }
    m_columnsMenu->addSeparator();
    QAction* before = m_columnsMenu->addAction(tr("Compare with the reading before"));
    before->setObjectName(QStringLiteral("compareBefore"));
    before->setCheckable(true);
    before->setChecked(m_compares);
    before->setEnabled(m_compares || withReadingsBefore(batch));
    before->setToolTip(tr("What the data that were in use before give under the same layout and method"));
    connect(before, &QAction::triggered, this, &ResultsPage::compareWithBefore);
    QAction* usual = m_columnsMenu->addAction(tr("The usual columns"));
    usual->setEnabled(!batch.method.resultColumns.empty());
    connect(usual, &QAction::triggered, this, [this] { chooseColumns({}, "The usual columns of results"); });
}

void ResultsPage::chooseColumns(std::vector<std::string> keys, const std::string& label) {
    Method method = m_workspace.newest().method;
    method.resultColumns = std::move(keys);
    m_workspace.apply(setMethod(m_workspace.newest(), method, label));
}

void ResultsPage::takeOrder() {
    const auto columns = resultColumns(m_workspace.batch(), m_workspace.evaluation());
    std::vector<std::string> keys;
    for (const int column : m_table->columnOrder()) {
        if (static_cast<std::size_t>(column) < columns.size()) { // what is compared with is no column of the method
            keys.push_back(columns[static_cast<std::size_t>(column)].key);
        }
    }
    m_headings.clear(); // the columns are made anew in their order
    chooseColumns(std::move(keys), "Order of the columns of results");
}

void ResultsPage::refreshColumns() {
    auto specs = resultSpecs(
        m_workspace, [this](int row) -> const SampleResult& { return at(row); },
        [this](int row) { return replicateAt(row); });
    for (ColumnSpec& one : columnsOfBefore()) {
        specs.push_back(std::move(one));
    }
    std::vector<QString> headings;
    std::ranges::transform(specs, std::back_inserter(headings), &ColumnSpec::heading);
    if (headings != m_headings) {
        m_headings = std::move(headings);
        m_results->setColumns(std::move(specs));
        m_table->forgetMoves();
    }
}

std::vector<ColumnSpec> ResultsPage::columnsOfBefore() {
    if (!m_compares) {
        return {};
    }
    const auto before = [this](int row) -> std::optional<double> {
        const auto found = m_before.find(at(row).group);
        return found == m_before.end() ? std::nullopt : std::optional(found->second);
    };
    return {{tr("Before"), true, 76,
             [before](int row) {
                 const auto value = before(row);
                 return value ? shown(formatFigures(*value, 4)) : notDefined();
             }},
            {tr("Change, %"), true, 80, [this, before](int row) {
                 const auto value = before(row);
                 return value && at(row).result ? shown((*at(row).result > *value ? "+" : "") +
                                                        formatDecimals(100 * (*at(row).result - *value) / *value, 1))
                                                : notDefined();
             }}};
}

void ResultsPage::compareWithBefore(bool isOn) {
    m_compares = isOn;
    m_beforeOf = {};
    refresh();
}

void ResultsPage::refreshBefore() {
    const std::tuple now(m_workspace.revision(), m_workspace.analyteNumber(), m_workspace.carrierNumber(),
                         m_workspace.evaluation().bracket);
    if (!m_compares || m_beforeOf == now) {
        return;
    }
    m_beforeOf = now;
    if (m_beforeJob) {
        m_beforeJob->cancel();
    }
    auto batch = withReadingsBefore(m_workspace.batch());
    if (!batch) {
        m_before.clear();
        m_compares = false;
        return;
    }
    using Found = std::map<Assignment, double>;
    m_beforeJob = runJob<Found>(
        this,
        [batch = std::make_shared<const Batch>(std::move(*batch)), now](Progress&) -> Result<Found> {
            Found found;
            const auto [revision, analyte, carrier, bracket] = now;
            const Evaluation evaluation = evaluate(*batch);
            for (const SampleResult& result : evaluation.analyte(analyte, carrier, bracket).results) {
                if (result.result) {
                    found[result.group] = *result.result;
                }
            }
            return found;
        },
        [this, of = now](Result<Found> found) {
            if (found && of == m_beforeOf) {
                m_before = std::move(*found);
                m_results->refresh();
            }
        });
}

void ResultsPage::refreshDecisions() {
    const DecisionRule& rule = m_workspace.analyte().decisions;
    m_decisionCard->setVisible(!rule.limits.empty());
    if (rule.limits.empty()) {
        return;
    }
    const auto counts = countClasses(rule, m_workspace.evaluation().decisions);
    QString rows;
    const auto row = [&rows](const QString& name, std::size_t count) {
        rows += QStringLiteral("<tr><td>%1&nbsp;&nbsp;</td><td align='right'><b>%2</b></td></tr>")
                    .arg(name.toHtmlEscaped())
                    .arg(count);
    };
    for (std::size_t i = rule.limits.size() + 1; i-- > 0;) { // the highest on top, as it is drawn
        row(shown(className(rule, i)), counts[i]);
    }
    row(tr("not decided"), counts.back());
    m_classes->setText(QStringLiteral("<table cellspacing='0' cellpadding='1'>%1</table>").arg(rows));
    m_picture->refresh();
}

const SampleResult& ResultsPage::at(int row) const {
    return m_workspace.evaluation().results.at(m_rows.at(static_cast<std::size_t>(row)).result);
}

const ReplicateResult* ResultsPage::replicateAt(int row) const {
    const auto& replicate = m_rows.at(static_cast<std::size_t>(row)).replicate;
    return replicate && *replicate < at(row).replicates.size() ? &at(row).replicates[*replicate] : nullptr;
}

QWidget* ResultsPage::mainWidget() const {
    return m_by == Rows::Plate ? m_plate->shown() : m_table;
}

QString ResultsPage::facts() const {
    return m_by == Rows::Plate       ? tr("Results in the wells, after dilution")
           : m_by == Rows::Replicate ? tr("%1 rows, by replicate").arg(m_results->rowCount())
                                     : tr("%1 rows, by sample").arg(m_results->rowCount());
}
void ResultsPage::copy() const {
    QApplication::clipboard()->setText(m_table->copyText());
}

void ResultsPage::applyFilter() {
    const auto& results = m_workspace.evaluation().results;
    std::vector<ResultRow> rows;
    for (std::size_t i = 0; i < results.size(); ++i) {
        const bool fits = m_filter == Filter::All ||
                          (m_filter == Filter::Unknown && results[i].group.role == Role::Unknown) ||
                          (m_filter == Filter::Qc && hasNominal(results[i].group.role)) ||
                          (m_filter == Filter::Review && isToReview(results[i]));
        if (fits && m_by != Rows::Replicate) {
            rows.push_back({i, std::nullopt});
        }
        for (std::size_t k = 0; fits && m_by == Rows::Replicate && k < results[i].replicates.size(); ++k) {
            rows.push_back({i, k});
        }
    }
    m_rows = std::move(rows);
    m_results->refresh();
    m_stack->setCurrentWidget(results.empty()       ? static_cast<QWidget*>(m_empty)
                              : m_by == Rows::Plate ? static_cast<QWidget*>(m_plate)
                                                    : static_cast<QWidget*>(m_table));
}

void ResultsPage::followSelection() {
    const auto wanted = m_workspace.selection().group;
    int found = -1;
    for (int row = 0; wanted && row < m_results->rowCount(); ++row) {
        found = found < 0 && at(row).group == *wanted ? row : found; // the first replicate of it
    }
    if (found < 0 || m_table->currentIndex().row() < 0 || m_table->currentIndex().row() >= m_results->rowCount() ||
        !(at(m_table->currentIndex().row()).group == *wanted)) {
        m_table->showRow(found);
    }
}

void ResultsPage::refresh() {
    const auto& results = m_workspace.evaluation().results;
    const auto count = [&](const auto& wanted) {
        return static_cast<int>(std::count_if(results.begin(), results.end(), wanted));
    };
    const int qc = count([](const SampleResult& r) { return hasNominal(r.group.role); });
    const int unknown = count([](const SampleResult& r) { return r.group.role == Role::Unknown; });
    m_filters[0]->setText(tr("All %1").arg(results.size()));
    m_filters[1]->setText(tr("Unknown %1").arg(unknown));
    m_filters[2]->setText(tr("QC %1").arg(qc));
    m_filters[3]->setText(tr("To review %1").arg(count(isToReview)));
    refreshBefore();
    refreshColumns();
    applyFilter();
    refreshDecisions();
    const std::string& unitName = m_workspace.analyte().unit;
    const auto status = [&](auto... wanted) {
        return count(
            [=](const SampleResult& r) { return r.group.role == Role::Unknown && ((r.status == wanted) || ...); });
    };
    const Range& range = m_workspace.evaluation().range;
    const auto waits = [&](bool (*why)(const SampleResult&)) {
        return count([why](const SampleResult& r) { return r.group.role == Role::Unknown && why(r); });
    };
    const int notFound = waits(isNotFound), notRead = waits(isNotRead);
    m_counts->setText(tr("%1 reported · %2 below and %3 above the range · %4 without result")
                          .arg(status(ResultStatus::Reported, ResultStatus::Extrapolated))
                          .arg(status(ResultStatus::BelowRange, ResultStatus::BelowCurve))
                          .arg(status(ResultStatus::AboveRange, ResultStatus::AboveCurve))
                          .arg(status(ResultStatus::NotDefined, ResultStatus::AcrossLimit) - notFound - notRead) +
                      (notFound > 0 ? tr(" · %1 not found").arg(notFound) : QString()) +
                      (notRead > 0 ? tr(" · %1 not read yet").arg(notRead) : QString()) +
                      (range.lloq && range.uloq
                           ? tr("\nRange of the curve %1 to %2%3, before dilution")
                                 .arg(shown(formatFigures(*range.lloq, 3)), shown(formatFigures(*range.uloq, 3)),
                                      unitName.empty() ? QString() : u' ' + text(unitName))
                           : QString()));
    QStringList together;
    constexpr qsizetype kMost = 16; // a label of hundreds of lines takes longer than a frame; the report has all
    const auto& combined = m_workspace.evaluation().combined;
    for (const bool isInDoubt : {true, false}) { // what has to be looked at stands first
        for (const CombinedSample& sample : combined) {
            if (sample.hasDoubt() == isInDoubt && together.size() < kMost) {
                together << shown(combinedText(m_workspace.batch(), m_workspace.evaluation(), sample));
            }
        }
    }
    if (const auto left = static_cast<qsizetype>(combined.size()) - together.size(); left > 0) {
        together << tr("and %1 more, in the report").arg(left);
    }
    m_combinedCard->setVisible(!together.isEmpty());
    // Four cards side by side could not be read; what the batch comes to stands on Checks and in the rail too.
    m_batchCard->setVisible(together.isEmpty() || m_workspace.analyte().decisions.limits.empty());
    m_combined->setText(together.join(u'\n'));
    m_batch->setText(text(verdictSentence(m_workspace.batch(), m_workspace.wholeEvaluation())));
}

bool ResultsPage::next() {
    const auto current = m_workspace.selection().group;
    int start = 0;
    for (int row = 0; current && row < m_results->rowCount(); ++row) {
        start = at(row).group == *current ? row + 1 : start;
    }
    for (int i = 0; i < m_results->rowCount(); ++i) {
        const int row = (start + i) % m_results->rowCount();
        if (isToReview(at(row))) {
            m_workspace.selectGroup(at(row).group);
            return true;
        }
    }
    m_workspace.tell(tr("Nothing here asks for a review."), false);
    return true;
}

} // namespace nuvat
