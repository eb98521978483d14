#include "kinds/trace/trace_response_page.h"

#include "kinds/trace/peak_rule_settings.h"
#include "kinds/trace/run_review_view.h"
#include "kinds/trace/run_strip.h"
#include "kinds/trace/signal_settings.h"
#include "kinds/trace/time_plot.h"
#include "kinds/trace/trace_tools.h"
#include "nuvat/batch/command.h"
#include "nuvat/core/base/number.h"
#include "theme/style.h"

#include <algorithm>
#include <cmath>
#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QVBoxLayout>
#include <utility>

namespace nuvat {

TraceResponsePage::TraceResponsePage(Workspace& workspace, QWidget* parent)
    : Page(workspace, parent), m_look(TraceLook::of(workspace)) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(frame::kPage, 12, frame::kPage, 12);
    outer->setSpacing(frame::kGap);
    outer->addWidget(makeChips());
    m_oneRun = makeOneRun();
    outer->addWidget(m_oneRun, 1);
    m_review = new RunReviewView(workspace, this);
    m_review->hide();
    outer->addWidget(m_review, 1);
    makeSettings();

    connect(m_mode, &Segments::chosen, this, [this](int index) { showReview(index == 1); });
    connect(m_review, &RunReviewView::oneAsked, this, [this] { showReview(false); });
    connect(m_review, &RunReviewView::factsChanged, this, &Page::factsChanged);
    connect(m_tools, &TraceTools::chosen, this, &TraceResponsePage::useTool);
    connect(m_tools, &TraceTools::markersAsked, this, &TraceResponsePage::toggleMarkers);
    connect(m_plot, &TracePlot::zoomed, &m_look, &TraceLook::setZoom);
    connect(m_plot, &TracePlot::drawn, this, &TraceResponsePage::draw);
    connect(m_plot, &TracePlot::ignored, this, &TraceResponsePage::ignore);
    connect(m_plot, &TracePlot::markersMoved, this, &TraceResponsePage::showMarkers);
    connect(m_plot, &TracePlot::peakChosen, this, &TraceResponsePage::choosePeak);
    connect(&m_look, &TraceLook::changed, this, [this] {
        m_isLookStale = true;
        followLook();
    });
    useTool(TraceTool::Zoom);
}

/// The runs at the left, the trace of one with its peaks.
QWidget* TraceResponsePage::makeOneRun() {
    auto* whole = new QWidget(this);
    auto* middle = new QHBoxLayout(whole);
    middle->setContentsMargins(0, 0, 0, 0);
    middle->setSpacing(frame::kGap);
    auto* runs = new Card({}, whole);
    m_strip = new RunStrip(m_workspace, runs);
    m_strip->setObjectName(QStringLiteral("responseRuns"));
    runs->body()->addWidget(m_strip);
    runs->setFixedWidth(200);
    middle->addWidget(runs);
    auto* right = new QVBoxLayout;
    right->setSpacing(frame::kGap);
    auto* plotCard = new Card({}, this);
    m_tools = new TraceTools(plotCard);
    plotCard->body()->addWidget(m_tools);
    m_plot = new TracePlot(plotCard);
    m_plot->setObjectName(QStringLiteral("responseTrace"));
    m_plot->setEditable(true);
    plotCard->body()->addWidget(m_plot, 1);
    m_markerLine = makeLabel({}, "value", plotCard);
    m_markerLine->setObjectName(QStringLiteral("markerLine"));
    m_markerLine->setWordWrap(true);
    m_markerLine->hide();
    plotCard->body()->addWidget(m_markerLine);
    right->addWidget(plotCard, 5);
    right->addWidget(makeTables(), 3);
    middle->addLayout(right, 1);
    return whole;
}

bool TraceResponsePage::isReview() const {
    return m_review->isVisibleTo(this);
}

void TraceResponsePage::showReview(bool isReview) {
    m_mode->setCurrent(isReview ? 1 : 0);
    m_oneRun->setVisible(!isReview);
    m_review->setVisible(isReview);
    refresh();
    mainWidget()->setFocus();
    Q_EMIT factsChanged(); // other keys matter
}

/// What another page did to zoom or channel is made up for when this one is shown.
void TraceResponsePage::followLook() {
    if (isVisible() && std::exchange(m_isLookStale, false)) {
        showRun();
    }
}

void TraceResponsePage::showEvent(QShowEvent* event) {
    Page::showEvent(event);
    followLook();
}

QWidget* TraceResponsePage::makeChips() {
    auto* bar = new QWidget(this);
    auto* row = new QHBoxLayout(bar);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(7);
    m_mode = new Segments({tr("One run"), tr("All runs")}, bar);
    m_mode->setObjectName(QStringLiteral("responseMode"));
    row->addWidget(m_mode);
    m_chips = new QHBoxLayout;
    m_chips->setSpacing(7);
    row->addLayout(m_chips);
    row->addStretch();
    m_back = makeButton(tr("Take back"), "normal", QStringLiteral("takeBack"), bar);
    m_back->setToolTip(tr("Takes back what was drawn last on this run"));
    connect(m_back, &QPushButton::clicked, this, &TraceResponsePage::takeBack);
    row->addWidget(m_back);
    m_take = makeButton(tr("Take these peaks as analytes"), "normal", QStringLiteral("takePeaks"), bar);
    m_take->setToolTip(tr("Each peak of this run that none is read from yet becomes an analyte"));
    connect(m_take, &QPushButton::clicked, this, &TraceResponsePage::takePeaksOfRun);
    row->addWidget(m_take);
    return bar;
}

/// Below the trace: its peaks, or where the peak of the analyte came in every run.
QWidget* TraceResponsePage::makeTables() {
    auto* card = new Card({}, this);
    auto* head = new QHBoxLayout;
    m_below = new Segments({tr("Peaks of this run"), tr("Times of all runs")}, card);
    m_below->setObjectName(QStringLiteral("responseBelow"));
    head->addWidget(m_below);
    head->addStretch();
    m_facts = makeLabel({}, "mute", card);
    m_facts->setObjectName(QStringLiteral("timeFacts"));
    head->addWidget(m_facts);
    card->body()->addLayout(head);
    m_peaks = new PeakTable(m_workspace, QStringLiteral("responsePeaks"), card);
    card->body()->addWidget(m_peaks->table());
    m_times = new TimePlot(m_workspace, card);
    m_times->setObjectName(QStringLiteral("responseTimes"));
    card->body()->addWidget(m_times);
    connect(m_below, &Segments::chosen, this, &TraceResponsePage::showBelow);
    connect(m_times, &TimePlot::chosen, this, [this](Place place) { m_workspace.select({place}); });
    showBelow();
    return card;
}

void TraceResponsePage::showBelow() {
    const bool isTimes = m_below->current() == 1;
    m_peaks->table()->setVisible(!isTimes);
    m_times->setVisible(isTimes);
    m_facts->setText(isTimes ? m_times->summary() : QString());
}

void TraceResponsePage::makeSettings() {
    m_settings = new QWidget(this);
    auto* layout = new QVBoxLayout(m_settings);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    m_rule = new PeakRuleSettings(m_workspace, m_settings);
    m_signal = new SignalSettings(m_workspace, m_settings);
    layout->addWidget(m_rule);
    layout->addWidget(m_signal);
}

void TraceResponsePage::enterSettings() {
    m_signal->enter();
}

void TraceResponsePage::useTool(TraceTool tool) {
    m_plot->setTool(tool);
    m_tools->setTool(tool);
}

std::vector<Slot> TraceResponsePage::slotsFor(ApplyTo to) const {
    const Place run = m_look.run();
    const Batch& batch = m_workspace.newest();
    std::vector<Place> places{run};
    if (to == ApplyTo::Replicates && batch.at(run).role != Role::Empty) {
        const auto members = m_workspace.index().members(batch.at(run));
        places.assign(members.begin(), members.end());
    } else if (to == ApplyTo::All) {
        places = placesOf(batch);
    }
    std::vector<Slot> out;
    for (const Place place : places) {
        if (batch.reading(m_look.slot(place)) != nullptr) {
            out.push_back(m_look.slot(place));
        }
    }
    return out;
}

void TraceResponsePage::draw(const PeakEdit& drawn) {
    PeakEdit edit = drawn;
    if (edit.kind == PeakEditKind::Give) { // the analyte's own peak is taken from it
        const auto& own = m_workspace.evaluation().at(m_look.run()).apexes;
        const bool isOwn = std::ranges::find(own, edit.at) != own.end();
        edit.owner = isOwn ? 0 : m_workspace.analyteNumber();
    }
    m_workspace.apply(
        drawOn(m_workspace.newest(), slotsFor(m_tools->applyTo()), {edit, {}, m_workspace.document()->now()}));
}

void TraceResponsePage::ignore(const Stretch& stretch) {
    SignalRule rule = m_workspace.newest().method.signal(m_look.channel());
    rule.peaks.ignored.push_back(stretch);
    std::ranges::sort(rule.peaks.ignored, {}, &Stretch::from);
    m_workspace.apply(setSignal(m_workspace.newest(), m_look.channel(), rule));
    useTool(TraceTool::Zoom);
}

void TraceResponsePage::takePeaksOfRun() {
    const auto measured = m_look.measured(m_look.run());
    m_workspace.apply(
        takePeaks(m_workspace.newest(), m_look.channel(), measured ? measured->features.peaks : std::vector<Peak>{}));
}

void TraceResponsePage::takeBack() {
    const Slot slot = m_look.slot(m_look.run());
    const auto& edits = m_workspace.newest().handEdits;
    if (const auto found = edits.find(slot); found != edits.end()) {
        m_workspace.apply(withdrawEdit(m_workspace.newest(), slot, found->second.list.size() - 1));
    }
}

void TraceResponsePage::choosePeak(double apex) {
    const auto measured = m_look.measured(m_look.run());
    const auto analytes = m_look.analytesOfPeaks(m_look.run());
    for (std::size_t i = 0; measured && i < analytes.size(); ++i) {
        if (measured->features.peaks[i].apex == apex && analytes[i] > 0) {
            m_workspace.commitPending(); // a click on the trace leaves the keyboard where it is
            m_workspace.showAnalyte(analytes[i]);
        }
    }
}

void TraceResponsePage::toggleMarkers() {
    if (m_plot->markers()) {
        m_plot->setMarkers(std::nullopt);
    } else {
        const TraceWindow window = m_plot->window();
        const double third = (window.xHigh - window.xLow) / 3;
        m_plot->setMarkers(Stretch{window.xLow + third, window.xHigh - third});
    }
    showMarkers();
}

QString TraceResponsePage::markerText() const {
    const auto trace = m_look.trace(m_look.run());
    if (!m_plot->markers() || !trace) {
        return {};
    }
    auto [x, y] = trace->points();
    std::ranges::transform(y, y.begin(), [sign = m_look.sign()](double value) { return sign * value; });
    const Stretch at = *m_plot->markers();
    const auto number = [](double value, int figures = 5) { return shown(formatFigures(value, figures)); };
    const QString where = tr("%1 to %2 %3").arg(number(at.from, 4), number(at.to, 4), text(trace->xUnit));
    const auto line = lineBetween(x, y, at);
    if (!line) {
        return where + QStringLiteral(": ") + text(line.error().message);
    }
    return tr("%1:  slope %2 ± %3,  intercept %4 ± %5,  R² %6,  s %7,  n %8")
        .arg(where, number(line->b), number(line->seB, 2), number(line->a), number(line->seA, 2),
             number(line->rSquared, 6), number(line->s, 3))
        .arg(line->n);
}

void TraceResponsePage::showMarkers() {
    const bool isOn = m_plot->markers().has_value();
    m_tools->setMarkersOn(isOn);
    m_markerLine->setVisible(isOn);
    m_markerLine->setText(markerText());
}

void TraceResponsePage::fillChips() {
    constexpr std::size_t kMost = 6;
    std::vector<QString> names;
    for (const Analyte& analyte : m_workspace.batch().method.analytes) {
        names.push_back(analyte.name.empty() ? tr("Analyte") : text(analyte.name));
    }
    if (names != m_chipNames) {
        m_chipNames = names;
        while (QLayoutItem* item = m_chips->takeAt(0)) {
            delete item->widget();
            delete item;
        }
        for (std::size_t i = 0; i < std::min(names.size(), kMost); ++i) {
            const int number = static_cast<int>(i) + 1;
            auto* chip = makeButton(names[i], "normal", QStringLiteral("analyte%1").arg(number), this);
            chip->setCheckable(true);
            connect(chip, &QPushButton::clicked, this, [this, number] { m_workspace.showAnalyte(number); });
            m_chips->addWidget(chip);
        }
    }
    for (int i = 0; i < m_chips->count(); ++i) {
        if (auto* chip = qobject_cast<QPushButton*>(m_chips->itemAt(i)->widget())) {
            chip->setChecked(i + 1 == m_workspace.analyteNumber());
        }
    }
}

void TraceResponsePage::showRun() {
    const Place run = m_look.run();
    const auto trace = m_look.trace(run);
    const auto measured = m_look.measured(run);
    std::vector<PlottedTrace> traces;
    if (trace && trace->size() > 1) {
        traces.push_back({trace, measured, {theme().ink, 1.4, m_look.sign(), 0}, {}, run});
    }
    const auto analytes = m_look.analytesOfPeaks(run);
    m_plot->setTraces(std::move(traces), trace ? axisTitle(trace->xName, trace->xUnit) : QString(),
                      trace ? axisTitle(trace->yName, trace->yUnit) : QString());
    m_plot->setLabels(m_look.peakLabels(run));
    m_plot->setExpected(m_look.expected());
    m_plot->setZoom(m_look.zoom());
    m_peaks->refresh();
    QString title = m_look.runName(run);
    if (measured && !measured->problem.empty()) {
        title += QStringLiteral(" · ") + text(measured->problem);
    } else if (measured && !measured->features.unheld.empty()) {
        title +=
            measured->features.unheld.size() == 1
                ? tr(" · one thing drawn by hand has no peak to hold on to")
                : tr(" · %1 things drawn by hand have no peak to hold on to").arg(measured->features.unheld.size());
    } else if (measured) {
        title +=
            tr(" · noise %1 %2").arg(shown(formatFigures(measured->features.noise.sigma, 2)), text(measured->yUnit));
    }
    const Response& response = m_workspace.evaluation().at(run);
    if (response.isNearEdge) {
        title += tr(" · near the edge of its window");
    }
    m_tools->show(title);
    showBelow();
    m_back->setVisible(m_workspace.batch().handEdits.contains(m_look.slot(run)));
    const bool hasFree = std::ranges::count(analytes, 0) > 0;
    m_take->setVisible(hasFree);
    showMarkers();
}

void TraceResponsePage::refresh() {
    fillChips();
    if (isReview()) {
        m_review->refresh();
    } else {
        showRun();
    }
}

void TraceResponsePage::followSelection() {
    if (!isReview()) {
        showRun();
    }
}

QString TraceResponsePage::keysHint() const {
    if (isReview()) {
        return tr("↑ ↓ analyte · ← → run · Space next to look at · K accept · X exclude · Enter one run");
    }
    return tr(
        "↑ ↓ run · R all runs · Alt+← → analyte · B line · S split · I ignore · M markers · Space next to look at");
}

QString TraceResponsePage::facts() const {
    if (isReview()) {
        return m_review->facts();
    }
    const auto measured = m_look.measured(m_look.run());
    if (!measured) {
        return tr("Nothing was read for this run in %1").arg(text(m_look.channel()));
    }
    return tr("Run %1 · %2")
        .arg(m_look.run().row + 1)
        .arg(counted(measured->features.peaks.size(), tr("peak"), tr("peaks")));
}

QWidget* TraceResponsePage::mainWidget() const {
    return isReview() ? static_cast<QWidget*>(m_review->table()) : m_strip;
}

void TraceResponsePage::stepAnalyte(int by) {
    const int count = static_cast<int>(m_workspace.batch().method.analytes.size());
    m_workspace.commitPending(); // what is being typed is of the analyte that goes
    m_workspace.showAnalyte(1 + (m_workspace.analyteNumber() - 1 + by + count) % count);
}

std::vector<PageAction> TraceResponsePage::actions() {
    const auto tool = [this](TraceTool which) {
        return [this, which] {
            if (isReview()) { // what is drawn is drawn on one run
                showReview(false);
            }
            useTool(m_plot->tool() == which ? TraceTool::Zoom : which);
        };
    };
    return {
        {QStringLiteral("response.line"), tr("Draw a base line"), {QKeySequence(Qt::Key_B)}, tool(TraceTool::Line)},
        {QStringLiteral("response.split"), tr("Split a peak"), {QKeySequence(Qt::Key_S)}, tool(TraceTool::Split)},
        {QStringLiteral("response.join"), tr("Join peaks"), {QKeySequence(Qt::Key_J)}, tool(TraceTool::Join)},
        {QStringLiteral("response.remove"),
         tr("Remove a peak"),
         {QKeySequence(Qt::Key_Delete)},
         tool(TraceTool::Remove)},
        {QStringLiteral("response.give"),
         tr("Give a peak to the analyte"),
         {QKeySequence(Qt::Key_G)},
         tool(TraceTool::Give)},
        {QStringLiteral("response.ignore"),
         tr("Ignore a stretch in all runs"),
         {QKeySequence(Qt::Key_I)},
         tool(TraceTool::Ignore)},
        {QStringLiteral("response.markers"),
         tr("Markers with the line between them"),
         {QKeySequence(Qt::Key_M)},
         [this] { toggleMarkers(); }},
        {QStringLiteral("response.takePeaks"), tr("Take these peaks as analytes"), {}, [this] { takePeaksOfRun(); }},
        {QStringLiteral("response.takeBack"),
         tr("Take back what was drawn last on this run"),
         {},
         [this] { takeBack(); }},
        {QStringLiteral("response.whole"),
         tr("Whole trace"),
         {QKeySequence(Qt::Key_Z)},
         [this] {
             m_plot->showAll();
             m_look.setZoom(std::nullopt);
         }},
        {QStringLiteral("response.fit"),
         tr("Fit the height to the peak"),
         {QKeySequence(Qt::Key_F)},
         [this] { m_plot->fitToPeak(); }},
        {QStringLiteral("response.review"),
         tr("All runs, or one"),
         {QKeySequence(Qt::Key_R)},
         [this] { showReview(!isReview()); }},
        {QStringLiteral("response.accept"),
         tr("Accept what asks for a look, with a reason"),
         {QKeySequence(Qt::Key_K)},
         [this] { m_review->accept(); }},
        {QStringLiteral("response.next"),
         tr("Next analyte"),
         {QKeySequence(Qt::ALT | Qt::Key_Right)},
         [this] { stepAnalyte(1); }},
        {QStringLiteral("response.previous"), tr("Analyte before"), {QKeySequence(Qt::ALT | Qt::Key_Left)}, [this] {
             stepAnalyte(-1);
         }}};
}

void TraceResponsePage::copy() const {
    if (isReview()) {
        m_review->copy();
        return;
    }
    QString out = m_peaks->table()->copyText();
    if (m_plot->markers()) {
        out += m_markerLine->text() + u'\n';
    }
    QApplication::clipboard()->setText(out);
}

bool TraceResponsePage::escape() {
    if (isReview()) {
        showReview(false);
        return true;
    }
    if (m_plot->cancelDrag()) {
        return true;
    }
    const bool hadTool = m_plot->tool() != TraceTool::Zoom;
    useTool(TraceTool::Zoom);
    return hadTool;
}

bool TraceResponsePage::next() {
    if (!m_review->next()) {
        m_workspace.tell(tr("Nothing is left to look at."), false);
    }
    return true;
}

} // namespace nuvat
