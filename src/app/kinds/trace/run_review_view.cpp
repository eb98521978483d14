#include "kinds/trace/run_review_view.h"

#include "dialogs/file_dialogs.h"
#include "kinds/trace/run_chart.h"
#include "kinds/trace/trace_wall.h"
#include "nuvat/core/base/number.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <array>
#include <QApplication>
#include <QButtonGroup>
#include <QClipboard>
#include <QHBoxLayout>
#include <QVBoxLayout>

namespace nuvat {

namespace {

constexpr std::array kFilters{RunFilter::All,      RunFilter::Standards, RunFilter::Qcs,
                              RunFilter::Unknowns, RunFilter::Blanks,    RunFilter::ToLookAt};

QString filterName(RunFilter filter) {
    switch (filter) {
    case RunFilter::All:
        return RunReviewView::tr("All");
    case RunFilter::Standards:
        return RunReviewView::tr("Standards");
    case RunFilter::Qcs:
        return RunReviewView::tr("QC");
    case RunFilter::Unknowns:
        return RunReviewView::tr("Unknowns");
    case RunFilter::Blanks:
        return RunReviewView::tr("Blanks");
    case RunFilter::ToLookAt:
        return RunReviewView::tr("To look at");
    }
    return {};
}

} // namespace

RunReviewView::RunReviewView(Workspace& workspace, QWidget* parent)
    : QWidget(parent), m_workspace(workspace), m_look(TraceLook::of(workspace)) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    outer->setSpacing(frame::kGap);
    outer->addWidget(makeBar());
    auto* card = new Card({}, this);
    m_table = new RunTable(workspace, card);
    m_table->setObjectName(QStringLiteral("reviewTable"));
    card->body()->addWidget(m_table);
    auto* legend =
        makeLabel(tr("Tint: range of each analyte · hatched: not found · corner: look at it · tick: accepted · "
                     "square: drawn by hand · struck: excluded"),
                  "mute", card);
    legend->setWordWrap(true);
    card->body()->addWidget(legend);
    outer->addWidget(card, 5);
    outer->addWidget(makeWall(), 4);
    outer->addWidget(makeCharts(), 2);
    connect(m_table, &RunTable::activated, this, &RunReviewView::oneAsked);
    connect(m_table, &RunTable::pageAsked, m_wall, &TraceWall::turnPage);
    connect(m_table, &RunTable::shownChanged, this, &RunReviewView::factsChanged);
    connect(m_quantity, &QComboBox::activated, this, [this](int index) {
        m_table->setQuantity(runQuantities()[static_cast<std::size_t>(index)].quantity);
        fillCharts();
    });
    connect(m_filters, &QButtonGroup::idClicked, this,
            [this](int id) { m_table->setFilter(kFilters.at(static_cast<std::size_t>(id))); });
    connect(&workspace, &Workspace::selectionChanged, this, [this] {
        if (isVisible()) {
            showReasons();
        }
    });
}

QWidget* RunReviewView::makeBar() {
    auto* bar = new QWidget(this);
    auto* row = new QHBoxLayout(bar);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    m_filters = new QButtonGroup(this);
    for (std::size_t i = 0; i < kFilters.size(); ++i) {
        auto* chip = makeButton(filterName(kFilters[i]), "normal", QStringLiteral("runFilter%1").arg(i), bar);
        chip->setCheckable(true);
        chip->setChecked(i == 0);
        m_filters->addButton(chip, static_cast<int>(i));
        row->addWidget(chip);
    }
    row->addStretch();
    m_quantity = new Choice(bar);
    m_quantity->setObjectName(QStringLiteral("runQuantity"));
    m_quantity->setAccessibleName(tr("Cells show"));
    m_quantity->setToolTip(tr("What the cells of the table show"));
    for (const RunQuantityInfo& info : runQuantities()) {
        m_quantity->addItem(tr(info.title));
    }
    row->addWidget(m_quantity);
    m_next = makeButton(tr("Next to look at"), "normal", QStringLiteral("reviewNext"), bar);
    m_next->setToolTip(tr("Space"));
    connect(m_next, &QPushButton::clicked, this, [this] { next(); });
    row->addWidget(m_next);
    return bar;
}

QWidget* RunReviewView::makeWall() {
    auto* card = new Card({}, this);
    auto* head = new QHBoxLayout;
    m_title = makeLabel({}, "strong", card);
    m_title->setObjectName(QStringLiteral("reviewTitle"));
    head->addWidget(m_title);
    m_reasons = makeLabel({}, "mute", card);
    m_reasons->setObjectName(QStringLiteral("reviewReasons"));
    m_reasons->setWordWrap(true);
    head->addWidget(m_reasons, 1);
    m_accept = makeButton(tr("Accept…  K"), "normal", QStringLiteral("reviewAccept"), card);
    connect(m_accept, &QPushButton::clicked, this, &RunReviewView::accept);
    head->addWidget(m_accept);
    m_page = makeLabel({}, "mute", card);
    head->addWidget(m_page);
    card->body()->addLayout(head);
    m_wall = new TraceWall(m_workspace, card);
    m_wall->setObjectName(QStringLiteral("reviewWall"));
    m_wall->setMinimumHeight(120);
    constexpr int kColumns = 6, kRows = 2;
    m_wall->setGrid(kColumns, kRows);
    card->body()->addWidget(m_wall, 1);
    connect(m_wall, &TraceWall::activated, this, [this](Place place) {
        m_workspace.select({place});
        Q_EMIT oneAsked();
    });
    connect(m_wall, &TraceWall::pageTurned, this, [this] { m_page->setText(m_wall->pageText()); });
    return card;
}

QWidget* RunReviewView::makeCharts() {
    auto* card = new Card({}, this);
    auto* row = new QHBoxLayout;
    row->setSpacing(12);
    constexpr int kCharts = 3;
    for (int i = 0; i < kCharts; ++i) {
        auto* chart = new RunChart(m_workspace, card);
        chart->setObjectName(QStringLiteral("runChart%1").arg(i));
        connect(chart, &RunChart::chosen, this, [this](Place place) { m_workspace.select({place}); });
        row->addWidget(chart);
        m_charts.push_back(chart);
    }
    card->body()->addLayout(row);
    return card;
}

void RunReviewView::fillCharts() {
    const AnalyteEvaluation& evaluation = m_workspace.evaluation();
    const Method& method = m_workspace.batch().method;
    const int analyte = m_workspace.analyteNumber();
    std::optional<Stretch> window;
    for (const Response& response : evaluation.responses) {
        window = response.window ? response.window : window;
    }
    m_charts[0]->show(RunQuantity::Time, tr("Time, run by run"), window);
    const bool hasRatio = !evaluation.qualifiers.empty();
    m_charts[1]->setVisible(hasRatio);
    if (hasRatio) {
        const auto& limits = evaluation.qualifiers.front().window;
        m_charts[1]->show(RunQuantity::Ratio,
                          tr("Ratio %1, %").arg(text(method.analyte(analyte).qualifiers.front().channel)),
                          limits ? std::optional(Stretch{limits->low, limits->high}) : std::nullopt);
    }
    const int internal = internalOf(method, analyte);
    m_charts[2]->setVisible(true);
    if (internal != 0) {
        const bool hasLimits = method.limits.internalHigh.has_value();
        m_charts[2]->show(
            RunQuantity::Internal, tr("Internal standard %1, % of the median").arg(text(method.analyte(internal).name)),
            hasLimits ? std::optional(Stretch{method.limits.internalLow.value_or(0), *method.limits.internalHigh})
                      : std::nullopt);
    } else {
        const auto& info = runQuantities()[static_cast<std::size_t>(std::max(0, m_quantity->currentIndex()))];
        m_charts[2]->show(info.quantity, tr("%1, run by run").arg(tr(info.title)), std::nullopt);
    }
}

void RunReviewView::showReasons() {
    const Place place = m_look.run();
    const int analyte = m_workspace.analyteNumber();
    const RunReview& review = m_look.review();
    m_title->setText(tr("%1 · run %2").arg(text(m_workspace.analyte().name)).arg(place.row + 1));
    QStringList lines;
    for (const std::string& reason : review.reasons(analyte, place)) {
        lines << shown(reason);
    }
    const bool isAccepted = review.isAccepted(analyte, place);
    if (isAccepted) {
        lines.prepend(tr("Accepted."));
    }
    m_reasons->setText(lines.join(u' '));
    m_accept->setVisible(!lines.isEmpty());
    m_accept->setText(isAccepted ? tr("Withdraw  K") : tr("Accept…  K"));
    Q_EMIT factsChanged();
}

void RunReviewView::refresh() {
    for (std::size_t i = 0; i < kFilters.size(); ++i) {
        auto* chip = m_filters->button(static_cast<int>(i));
        const std::size_t count = m_table->countOf(kFilters[i]);
        chip->setText(QStringLiteral("%1  %2").arg(filterName(kFilters[i])).arg(count));
        chip->setVisible(count > 0 || i == 0 || kFilters[i] == RunFilter::ToLookAt || chip->isChecked());
    }
    m_page->setText(m_wall->pageText());
    fillCharts();
    showReasons();
}

QString RunReviewView::facts() const {
    return m_table->statistics();
}

void RunReviewView::copy() const {
    QApplication::clipboard()->setText(m_table->copyText());
}

bool RunReviewView::next() {
    const auto& places = m_workspace.selection().places;
    const auto found =
        m_look.review().next(m_workspace.analyteNumber(), places.empty() ? std::nullopt : std::optional(m_look.run()));
    if (!found) {
        return false;
    }
    if (found->first != m_workspace.analyteNumber()) {
        m_workspace.commitPending();
        m_workspace.showAnalyte(found->first);
    }
    m_workspace.select({found->second});
    return true;
}

void RunReviewView::accept() {
    const Place place = m_look.run();
    const int analyte = m_workspace.analyteNumber();
    const RunReview& review = m_look.review();
    if (review.isAccepted(analyte, place)) {
        m_workspace.apply(withdrawAcceptance(m_workspace.newest(), analyte, place));
        return;
    }
    if (review.reasons(analyte, place).empty()) {
        m_workspace.tell(tr("Nothing asks for a look here."), false);
        return;
    }
    const QString what =
        tr("%1 in %2").arg(text(m_workspace.analyte().name), text(placeName(m_workspace.batch(), place)));
    if (const auto reason = askOverride(this, what)) {
        m_workspace.apply(acceptRun(m_workspace.newest(), m_look.review(), analyte, place, reason->toStdString(),
                                    m_workspace.document()->now()));
    }
}

} // namespace nuvat
