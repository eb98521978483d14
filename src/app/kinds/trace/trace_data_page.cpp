#include "kinds/trace/trace_data_page.h"

#include "kinds/trace/acquire_card.h"
#include "kinds/trace/run_strip.h"
#include "kinds/trace/trace_wall.h"
#include "nuvat/core/base/number.h"
#include "theme/style.h"
#include "widgets/live_form.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QStackedWidget>
#include <QTimer>
#include <QVBoxLayout>
#include <utility>

namespace nuvat {

namespace {

constexpr std::size_t kMostOverlaid = 100;
constexpr std::array<std::pair<int, int>, 4> kGrids{{{3, 2}, {4, 3}, {6, 4}, {8, 6}}};

} // namespace

TraceDataPage::TraceDataPage(Workspace& workspace, QWidget* parent)
    : Page(workspace, parent), m_look(TraceLook::of(workspace)), m_acquisition(Acquisition::of(workspace)) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(frame::kPage, 12, frame::kPage, 12);
    outer->setSpacing(frame::kGap);
    outer->addWidget(makeTop());
    m_acquire = new AcquireCard(workspace, this);
    m_acquire->hide();
    outer->addWidget(m_acquire);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(frame::kGap);
    auto* runs = new Card({}, this);
    m_strip = new RunStrip(workspace, runs);
    m_strip->setObjectName(QStringLiteral("dataRuns"));
    runs->body()->addWidget(m_strip);
    runs->setFixedWidth(216);
    middle->addWidget(runs);
    auto* right = new QVBoxLayout;
    right->setSpacing(frame::kGap);
    m_stack = new QStackedWidget(this);
    auto* plotCard = new Card({}, m_stack);
    m_title = makeLabel({}, "mute", plotCard);
    m_title->setObjectName(QStringLiteral("traceTitle"));
    plotCard->body()->addWidget(m_title);
    m_plot = new TracePlot(plotCard);
    m_plot->setObjectName(QStringLiteral("dataTraces"));
    plotCard->body()->addWidget(m_plot, 1);
    m_stack->addWidget(plotCard);
    makeWall(m_stack);
    right->addWidget(m_stack, 5);
    m_table = new Card(tr("Peaks of the run"), this);
    m_peaks = new PeakTable(workspace, QStringLiteral("dataPeaks"), m_table);
    m_table->body()->addWidget(m_peaks->table());
    right->addWidget(m_table, 3);
    middle->addLayout(right, 1);
    outer->addLayout(middle, 1);

    connect(m_plot, &TracePlot::zoomed, &m_look, &TraceLook::setZoom);
    connect(m_plot, &TracePlot::traceChosen, this, [this](Place place) { m_workspace.select({place}); });
    connect(&m_look, &TraceLook::changed, this, [this] {
        m_isLookStale = true;
        followLook();
    });
    connect(m_strip, &RunStrip::activated, this, [this] { show(Show::One); });
    constexpr int kFrameMillis = 40;
    m_live = new QTimer(this);
    m_live->setSingleShot(true);
    m_live->setInterval(kFrameMillis);
    connect(m_live, &QTimer::timeout, this, &TraceDataPage::showLive);
    connect(&m_acquisition, &Acquisition::grown, this, [this] {
        if (isVisible() && !m_live->isActive()) {
            m_live->start();
        }
    });
    connect(&m_acquisition, &Acquisition::changed, this, [this] {
        if (m_acquisition.line().isOpen()) {
            showInstrument(true);
        }
        if (isVisible()) {
            showTraces();
        }
    });
    show(Show::One);
    showInstrument(m_acquisition.line().isOpen());
}

/// What another page did to zoom or channel is made up for when this one is shown.
void TraceDataPage::followLook() {
    if (isVisible() && std::exchange(m_isLookStale, false)) {
        fillChannels();
        showTraces();
    }
}

void TraceDataPage::showEvent(QShowEvent* event) {
    Page::showEvent(event);
    followLook();
}

QWidget* TraceDataPage::makeTop() {
    auto* bar = new QWidget(this);
    auto* top = new QHBoxLayout(bar);
    top->setContentsMargins(0, 0, 0, 0);
    top->setSpacing(8);
    auto* import = makeButton(tr("Import runs…"), "normal", QStringLiteral("traceImport"), bar);
    setPicture(import, QStringLiteral("file-import"));
    connect(import, &QPushButton::clicked, this, [this] { Q_EMIT actionAsked(QStringLiteral("data.import")); });
    top->addWidget(import);
    m_instrument = makeButton(tr("Instrument"), "normal", QStringLiteral("traceInstrument"), bar);
    m_instrument->setCheckable(true);
    m_instrument->setToolTip(tr("Connect an instrument and measure the runs of this list"));
    connect(m_instrument, &QPushButton::clicked, this, [this](bool isOn) { showInstrument(isOn); });
    top->addWidget(m_instrument);
    m_channel = new Choice(bar);
    m_channel->setObjectName(QStringLiteral("traceChannel"));
    m_channel->setAccessibleName(tr("Channel shown"));
    connect(m_channel, &QComboBox::activated, this,
            [this] { m_look.showChannel(m_channel->currentText().toStdString()); });
    top->addWidget(m_channel);
    top->addStretch();
    m_overlayBar = makeOverlayBar(bar);
    m_wallBar = makeWallBar(bar);
    top->addWidget(m_overlayBar);
    top->addWidget(m_wallBar);
    m_mode = new Segments({tr("One"), tr("Overlay"), tr("Wall")}, bar);
    m_mode->setObjectName(QStringLiteral("traceMode"));
    connect(m_mode, &Segments::chosen, this, [this](int index) { show(static_cast<Show>(index)); });
    top->addWidget(m_mode);
    return bar;
}

QWidget* TraceDataPage::makeOverlayBar(QWidget* parent) {
    auto* bar = new QWidget(parent);
    auto* row = new QHBoxLayout(bar);
    row->setContentsMargins(0, 0, 0, 0);
    m_overlay = new Choice(bar);
    m_overlay->setObjectName(QStringLiteral("traceOverlay"));
    m_overlay->setAccessibleName(tr("How traces lie over each other"));
    m_overlay->addItems({tr("As measured"), tr("Each a little higher"), tr("Stacked"), tr("Scaled to one height"),
                         tr("Difference of two")});
    connect(m_overlay, &QComboBox::activated, this, &TraceDataPage::showTraces);
    row->addWidget(m_overlay);
    return bar;
}

QWidget* TraceDataPage::makeWallBar(QWidget* parent) {
    auto* bar = new QWidget(parent);
    auto* row = new QHBoxLayout(bar);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(8);
    m_page = makeLabel({}, "mute", bar);
    m_page->setObjectName(QStringLiteral("wallPage"));
    row->addWidget(m_page);
    auto* grid = new Choice(bar);
    grid->setObjectName(QStringLiteral("wallGrid"));
    grid->setAccessibleName(tr("Traces side by side"));
    for (const auto& [columns, rows] : kGrids) {
        grid->addItem(QStringLiteral("%1 × %2").arg(columns).arg(rows));
    }
    grid->setCurrentIndex(1);
    row->addWidget(grid);
    connect(grid, &QComboBox::activated, this, [this](int index) {
        const auto& [columns, rows] = kGrids.at(static_cast<std::size_t>(index));
        m_wall->setGrid(columns, rows);
    });
    auto* window = new Choice(bar);
    window->setObjectName(QStringLiteral("wallWindow"));
    window->setAccessibleName(tr("Stretch shown"));
    window->addItems({tr("About the analyte"), tr("Whole traces")});
    row->addWidget(window);
    connect(window, &QComboBox::activated, this, [this](int index) { m_wall->setWindowOnly(index == 0); });
    auto* scale = new Choice(bar);
    scale->setObjectName(QStringLiteral("wallScale"));
    scale->setAccessibleName(tr("Scale of the traces"));
    scale->addItems({tr("One scale"), tr("Each its own")});
    row->addWidget(scale);
    connect(scale, &QComboBox::activated, this, [this](int index) { m_wall->setCommonScale(index == 0); });
    return bar;
}

void TraceDataPage::makeWall(QWidget* parent) {
    auto* card = new Card({}, parent);
    m_wall = new TraceWall(m_workspace, card);
    m_wall->setObjectName(QStringLiteral("traceWall"));
    card->body()->addWidget(m_wall);
    m_stack->addWidget(card);
    connect(m_wall, &TraceWall::activated, this, [this](Place place) {
        m_workspace.select({place});
        show(Show::One);
    });
    connect(m_wall, &TraceWall::pageTurned, this, [this] { m_page->setText(m_wall->pageText()); });
}

void TraceDataPage::show(Show what) {
    m_what = what;
    m_mode->setCurrent(static_cast<int>(what));
    m_overlayBar->setVisible(what == Show::Overlay);
    m_wallBar->setVisible(what == Show::Wall);
    m_table->setVisible(what == Show::One);
    m_stack->setCurrentIndex(what == Show::Wall ? 1 : 0);
    m_page->setText(m_wall->pageText());
    showTraces();
    Q_EMIT factsChanged(); // other keys matter
}

/// The runs that are overlaid: those that are selected, all where none or one is.
std::vector<Place> TraceDataPage::runsShown() const {
    std::vector<Place> out;
    for (const Place place : m_workspace.selection().places) {
        if (place.carrier == m_workspace.carrierNumber()) {
            out.push_back(place);
        }
    }
    if (out.size() < 2) {
        const Place first = m_look.run();
        out = {first};
        for (int row = 0; row < m_workspace.carrier().rows && out.size() < kMostOverlaid; ++row) {
            if (row != first.row) {
                out.push_back({row, 0, first.carrier});
            }
        }
    }
    return out;
}

std::vector<PlottedTrace> TraceDataPage::overlaid() const {
    std::vector<PlottedTrace> out;
    const std::vector<Place> places = runsShown();
    for (const Place place : places) {
        if (auto trace = m_look.trace(place); trace && trace->size() > 1 && out.size() < kMostOverlaid) {
            out.push_back({trace,
                           m_look.measured(place),
                           {overlaidColour(out.size()), 1.2, m_look.sign(), 0},
                           places.size() <= 12 ? m_look.runName(place) : QString(),
                           place});
        }
    }
    setUpOverlay(out);
    return out;
}

/// The difference of two traces at the points of the first, where both are.
std::shared_ptr<const Trace> differenceOf(const Trace& a, const Trace& b) {
    const auto [bx, by] = b.points();
    const auto [ax, ay] = a.points();
    auto out = std::make_shared<Trace>(Trace{a.xName, a.xUnit, a.yName, a.yUnit, 0, 0, {}, {}, {}});
    std::vector<double> x;
    for (std::size_t i = 0; i < ax.size(); ++i) {
        if (!bx.empty() && ax[i] >= bx.front() && ax[i] <= bx.back()) {
            x.push_back(ax[i]);
            out->y.push_back(ay[i] - interpolated(bx, by, ax[i]));
        }
    }
    out->setX(std::move(x));
    return out;
}

void TraceDataPage::setUpOverlay(std::vector<PlottedTrace>& traces) const {
    const auto mode = static_cast<OverlayMode>(m_overlay->currentIndex());
    std::vector<double> heights;
    double highest = 0;
    for (const PlottedTrace& one : traces) {
        const auto y = rangeOfY(*one.trace, one.trace->xAt(0), one.trace->xAt(one.trace->size() - 1));
        heights.push_back(y ? y->second - y->first : 0);
        highest = std::max(highest, heights.back());
    }
    double stack = 0;
    for (std::size_t i = 0; i < traces.size(); ++i) {
        TraceStroke& stroke = traces[i].stroke;
        if (mode == OverlayMode::Normalised && heights[i] > 0) {
            const auto y =
                rangeOfY(*traces[i].trace, traces[i].trace->xAt(0), traces[i].trace->xAt(traces[i].trace->size() - 1));
            stroke.scale *= 100 / heights[i];
            stroke.offset = -std::min(stroke.scale * y->first, stroke.scale * y->second);
        } else if (mode == OverlayMode::Offset) {
            stroke.offset = 0.04 * highest * static_cast<double>(i);
        } else if (mode == OverlayMode::Stacked) {
            stroke.offset = stack;
            stack += 1.1 * heights[i];
        }
    }
    if (mode == OverlayMode::Difference && traces.size() > 1) {
        auto difference = differenceOf(*traces[0].trace, *traces[1].trace);
        traces.resize(2);
        if (difference->size() > 1) {
            traces.push_back({difference,
                              nullptr,
                              {theme().brick, 1.6, m_look.sign(), 0},
                              tr("%1 less %2").arg(traces[0].name, traces[1].name),
                              traces[0].place});
        }
    }
}

void TraceDataPage::showTraces() {
    const Place run = m_look.run();
    if (m_what == Show::One && m_acquisition.runner().place() == run && m_acquisition.runner().run().size() > 1) {
        showLive();
        return;
    }
    const auto trace = m_look.trace(run);
    std::vector<PlottedTrace> traces;
    if (m_what == Show::Overlay) {
        traces = overlaid();
    } else if (trace && trace->size() > 1) {
        traces.push_back({trace, m_look.measured(run), {theme().ink, 1.4, m_look.sign(), 0}, {}, run});
    }
    const QString yTitle =
        !trace ? QString()
        : m_what == Show::Overlay && m_overlay->currentIndex() == static_cast<int>(OverlayMode::Normalised)
            ? tr("Scaled, %")
            : axisTitle(trace->yName, trace->yUnit);
    m_plot->setTraces(std::move(traces), trace ? axisTitle(trace->xName, trace->xUnit) : QString(), yTitle);
    m_plot->setLabels(m_what == Show::One ? m_look.peakLabels(run) : std::vector<PeakLabel>{});
    m_plot->setZoom(m_look.zoom());
    const std::size_t count = m_plot->traces().size();
    m_title->setText(m_what == Show::Overlay
                         ? tr("%1 runs over each other; select runs at the left to choose them").arg(count)
                         : tr("%1 · %2").arg(m_look.runName(run), text(m_look.channel())));
}

void TraceDataPage::showInstrument(bool isShown) {
    m_instrument->setChecked(isShown);
    m_acquire->setVisible(isShown);
}

/// The run that is measured, with the peaks that it shows so far.
void TraceDataPage::showLive() {
    const ListRunner& runner = m_acquisition.runner();
    if (!isVisible() || m_what != Show::One || runner.place() != m_look.run() || runner.run().size() < 2) {
        return;
    }
    const GrowingRun& run = runner.run();
    const auto wanted = std::ranges::find(run.channels, m_look.channel());
    const auto channel = static_cast<std::size_t>(wanted == run.channels.end() ? 0 : wanted - run.channels.begin());
    auto trace = std::make_shared<Trace>();
    trace->xName = run.xUnit == "nm" ? "wavelength" : run.xUnit == "V" ? "potential" : "time";
    trace->xUnit = run.xUnit;
    trace->yName = run.channels[channel];
    trace->x = run.x;
    trace->y = run.y[channel];
    TraceRules rules;
    rules.signal = m_workspace.batch().method.signal(run.channels[channel]);
    const auto measured = std::make_shared<MeasuredTrace>(measureTrace({}, trace, rules));
    const QString xTitle = axisTitle(trace->xName, trace->xUnit), yTitle = axisTitle(trace->yName, trace->yUnit);
    m_plot->setTraces({{trace, measured, {theme().ink, 1.4, m_look.sign(), 0}, {}, m_look.run()}}, xTitle, yTitle);
    m_plot->setLabels({});
    m_plot->setZoom(m_look.zoom());
    m_title->setText(tr("%1 · %2 · %3 so far")
                         .arg(m_look.runName(m_look.run()), text(run.channels[channel]),
                              counted(measured->features.peaks.size(), tr("peak"), tr("peaks"))));
}

void TraceDataPage::fillChannels() {
    QStringList names;
    for (const std::string& channel : m_look.channels()) {
        names << text(channel);
    }
    QStringList had;
    for (int i = 0; i < m_channel->count(); ++i) {
        had << m_channel->itemText(i);
    }
    if (names != had) {
        m_channel->clear();
        m_channel->addItems(names);
    }
    m_channel->setVisible(names.size() > 1);
    m_channel->setCurrentText(text(m_look.channel()));
}

void TraceDataPage::refresh() {
    m_acquire->refresh();
    fillChannels();
    m_peaks->refresh();
    showTraces();
}

void TraceDataPage::followSelection() {
    m_peaks->refresh();
    showTraces();
}

QString TraceDataPage::keysHint() const {
    return m_what == Show::Wall ? tr("PgUp PgDn page · Enter one · O overlay")
                                : tr("↑ ↓ run · wheel and drag zoom · Z whole · F fit · O overlay · W wall");
}

QString TraceDataPage::facts() const {
    const auto trace = m_look.trace(m_look.run());
    if (!trace) {
        return tr("Nothing was read for this run in %1").arg(text(m_look.channel()));
    }
    const auto run = m_workspace.batch().runs.find(m_look.run());
    return tr("Run %1 · %2 points%3")
        .arg(m_look.run().row + 1)
        .arg(trace->size())
        .arg(run == m_workspace.batch().runs.end() || run->second.file.empty()
                 ? QString()
                 : QStringLiteral(" · ") + text(run->second.file));
}

QWidget* TraceDataPage::mainWidget() const {
    return m_what == Show::Wall ? static_cast<QWidget*>(m_wall) : m_strip;
}

std::vector<PageAction> TraceDataPage::actions() {
    const auto to = [this](Show what) {
        return [this, what] {
            show(m_what == what ? Show::One : what);
            mainWidget()->setFocus();
        };
    };
    return {{QStringLiteral("trace.instrument"),
             tr("Show or hide the instrument"),
             {QKeySequence(Qt::Key_N)},
             [this] { showInstrument(!m_instrument->isChecked()); }},
            {QStringLiteral("trace.measure"),
             tr("Measure the chosen run, or inject"),
             {QKeySequence(Qt::CTRL | Qt::Key_Return)},
             [this] { m_acquire->measure(); }},
            {QStringLiteral("trace.whole"),
             tr("Whole trace"),
             {QKeySequence(Qt::Key_Z)},
             [this] {
                 m_plot->showAll();
                 m_look.setZoom(std::nullopt);
             }},
            {QStringLiteral("trace.fit"),
             tr("Fit the height to the peak"),
             {QKeySequence(Qt::Key_F)},
             [this] { m_plot->fitToPeak(); }},
            {QStringLiteral("trace.overlay"), tr("Runs over each other"), {QKeySequence(Qt::Key_O)}, to(Show::Overlay)},
            {QStringLiteral("trace.wall"), tr("Wall of traces"), {QKeySequence(Qt::Key_W)}, to(Show::Wall)}};
}

QWidget* TraceDataPage::picture() const {
    return m_what == Show::Wall ? static_cast<QWidget*>(m_wall) : m_plot;
}

void TraceDataPage::copy() const {
    QApplication::clipboard()->setText(m_peaks->table()->copyText());
}

bool TraceDataPage::escape() {
    if (m_plot->cancelDrag()) {
        return true;
    }
    const bool isAlone = m_what == Show::One;
    show(Show::One);
    return !isAlone;
}

} // namespace nuvat
