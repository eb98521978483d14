#include "panels/results_page.h"

#include "models/columns_model.h"
#include "nuvat/batch/verdict.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "theme/style.h"
#include "widgets/controls.h"
#include "widgets/data_table.h"

#include <algorithm>
#include <cmath>
#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
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
    auto* copyButton = makeButton(tr("Copy"), "normal", QStringLiteral("resultsCopy"), this);
    setPicture(copyButton, QStringLiteral("copy"));
    connect(copyButton, &QPushButton::clicked, this, [this] {
        copy();
        m_workspace.tell(tr("The table was copied with its headings; paste it into a spreadsheet."), false);
    });
    auto* csv = makeButton(tr("Export CSV…"), "normal", QStringLiteral("resultsExport"), this);
    setPicture(csv, QStringLiteral("file-spreadsheet"));
    connect(csv, &QPushButton::clicked, this, [this] { Q_EMIT actionAsked(QStringLiteral("results.export")); });
    top->addWidget(copyButton);
    top->addWidget(csv);
    return top;
}

std::vector<ColumnSpec> ResultsPage::columnsOfResults() {
    return {{tr("Place"), false, 68, [this](int row) { return text(shortName(m_workspace.batch(), at(row).group)); },
             [this](int row, int role) {
                 return role == cell::kShape  ? QVariant(static_cast<int>(at(row).group.role))
                        : role == cell::kBold ? QVariant(true)
                                              : QVariant();
             }},
            {tr("Sample"), false, 0,
             [this](int row) {
                 const SampleResult& r = at(row);
                 if (hasNominal(r.group.role)) {
                     if (!r.nominal) {
                         return tr("no nominal");
                     }
                     const QString nominal =
                         shown(formatNumber(*r.nominal)) + QStringLiteral(" ") + text(m_workspace.analyte().unit);
                     return r.recoveryPercent
                                ? tr("%1, recovery %2").arg(nominal, shown(formatPercent(*r.recoveryPercent)))
                                : nominal;
                 }
                 return text(fullName(m_workspace.batch(), r.group));
             }},
            {tr("Response"), true, 72,
             [this](int row) {
                 return at(row).response.mean ? shown(formatDecimals(*at(row).response.mean, 3)) : notDefined();
             }},
            {tr("Read off"), true, 60,
             [this](int row) { return at(row).readOff.x ? shown(concentrationText(at(row).readOff)) : notDefined(); },
             [this](int row, int role) {
                 return role == cell::kMuted ? QVariant(at(row).status != ResultStatus::Reported) : QVariant();
             }},
            {tr("CV, %"), true, 50,
             [this](int row) {
                 const auto cv = at(row).concentration.cvPercent;
                 return cv ? shown(formatDecimals(*cv, 1)) : notDefined();
             },
             [this](int row, int role) {
                 const SampleResult& r = at(row);
                 return role == cell::kBold
                            ? QVariant(r.result && r.concentration.cvPercent.value_or(0) >
                                                       m_workspace.batch().method.limits.unknownCv.value_or(1e300))
                            : QVariant();
             }},
            {tr("Dilution"), true, 64,
             [this](int row) { return QStringLiteral("× ") + shown(formatNumber(at(row).dilution)); }},
            {tr("Result"), true, 112,
             [this](int row) { return shown(resultText(at(row), m_workspace.evaluation().range)); },
             [](int, int role) { return role == cell::kBold ? QVariant(true) : QVariant(); }},
            {tr("95 % interval"), true, 102,
             [this](int row) {
                 const SampleResult& r = at(row);
                 return r.result ? shown(intervalText(*r.result, r.low, r.high)) : QString();
             }},
            {tr("Status"), false, 70, [this](int row) { return text(statusWord(at(row))); },
             [this](int row, int role) {
                 return role == cell::kOutcome ? QVariant(static_cast<int>(statusOutcome(at(row)))) : QVariant();
             }}};
}

QWidget* ResultsPage::makeTable() {
    m_results = new ColumnsModel(
        columnsOfResults(),
        [this] {
            // Hidden, the page may be behind a batch with fewer results.
            const bool isBehind = !m_rows.empty() && m_rows.back() >= m_workspace.evaluation().results.size();
            return isBehind ? 0 : static_cast<int>(m_rows.size());
        },
        this);
    auto* card = new Card({}, this);
    card->body()->setContentsMargins(6, 4, 6, 6);
    m_table = new DataTable(m_results, QStringLiteral("resultsTable"), card);
    card->body()->addWidget(m_table, 1);
    m_empty = makeLabel(tr("No samples yet: assign QCs and unknowns under Layout, and their results stand here."),
                        "mute", card);
    m_empty->setAlignment(Qt::AlignCenter);
    card->body()->addWidget(m_empty, 1);
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
    auto* batchCard = new Card(tr("Batch"), this);
    m_batch = makeLabel({}, "value", batchCard);
    m_batch->setWordWrap(true);
    batchCard->body()->addWidget(m_batch);
    batchCard->body()->addStretch();
    m_combinedCard = new Card(tr("Dilutions taken together"), this);
    m_combined = addScrollingText(*m_combinedCard, QStringLiteral("resultsCombined"));
    constexpr int kHighest = 132; // the table is the page
    for (Card* card : {countsCard, m_combinedCard, batchCard}) {
        card->setMaximumHeight(kHighest);
        bottom->addWidget(card, card == m_combinedCard ? 4 : 3);
    }
    return bottom;
}

const SampleResult& ResultsPage::at(int row) const {
    return m_workspace.evaluation().results.at(m_rows.at(static_cast<std::size_t>(row)));
}

QWidget* ResultsPage::mainWidget() const {
    return m_table;
}

QString ResultsPage::facts() const {
    return tr("%1 rows, by place").arg(m_results->rowCount());
}
void ResultsPage::copy() const {
    QApplication::clipboard()->setText(m_table->copyText());
}

void ResultsPage::applyFilter() {
    const auto& results = m_workspace.evaluation().results;
    std::vector<std::size_t> rows;
    for (std::size_t i = 0; i < results.size(); ++i) {
        const bool fits = m_filter == Filter::All ||
                          (m_filter == Filter::Unknown && results[i].group.role == Role::Unknown) ||
                          (m_filter == Filter::Qc && hasNominal(results[i].group.role)) ||
                          (m_filter == Filter::Review && isToReview(results[i]));
        if (fits) {
            rows.push_back(i);
        }
    }
    m_rows = std::move(rows);
    m_results->refresh();
    m_table->setVisible(!results.empty());
    m_empty->setVisible(results.empty());
}

void ResultsPage::followSelection() {
    const auto wanted = m_workspace.selection().group;
    int found = -1;
    for (int row = 0; wanted && row < m_results->rowCount(); ++row) {
        found = at(row).group == *wanted ? row : found;
    }
    m_table->showRow(found);
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
    applyFilter();
    const Method& method = m_workspace.batch().method;
    const std::string& unitName = m_workspace.analyte().unit;
    const QString unit = unitName.empty() ? QString() : QStringLiteral(", ") + text(unitName);
    m_results->setHeading(3, tr("Read off"));
    m_results->setHeading(6, tr("Result") + unit);
    m_results->setHeading(7, tr("%1 % interval").arg(shown(formatNumber(100 * method.confidence))));
    const auto status = [&](auto... wanted) {
        return count(
            [=](const SampleResult& r) { return r.group.role == Role::Unknown && ((r.status == wanted) || ...); });
    };
    const Range& range = m_workspace.evaluation().range;
    m_counts->setText(tr("%1 reported · %2 below and %3 above the range · %4 without result")
                          .arg(status(ResultStatus::Reported, ResultStatus::Extrapolated))
                          .arg(status(ResultStatus::BelowRange, ResultStatus::BelowCurve))
                          .arg(status(ResultStatus::AboveRange, ResultStatus::AboveCurve))
                          .arg(status(ResultStatus::NotDefined, ResultStatus::AcrossLimit)) +
                      (range.lloq && range.uloq ? tr("\nRange of the curve %1 to %2 %3, before dilution")
                                                      .arg(shown(formatFigures(*range.lloq, 3)),
                                                           shown(formatFigures(*range.uloq, 3)), text(unitName))
                                                : QString()));
    QStringList together;
    for (const CombinedSample& sample : m_workspace.evaluation().combined) {
        together << shown(combinedText(m_workspace.batch(), m_workspace.evaluation(), sample));
    }
    m_combinedCard->setVisible(!together.isEmpty());
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
