#include "kinds/trace/acquire_card.h"

#include "kinds/trace/trace_look.h"
#include "nuvat/batch/run_commands.h"
#include "nuvat/core/base/number.h"
#include "settings/settings.h"
#include "theme/style.h"
#include "widgets/live_form.h"

#include <QCoreApplication>
#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>

namespace nuvat {

namespace {

struct StateWord {
    InstrumentState state;
    const char* word;
};
constexpr std::array<StateWord, 6> kStates{{{InstrumentState::Absent, QT_TRANSLATE_NOOP("StateLine", "absent")},
                                            {InstrumentState::Idle, QT_TRANSLATE_NOOP("StateLine", "idle")},
                                            {InstrumentState::WarmingUp, QT_TRANSLATE_NOOP("StateLine", "warming up")},
                                            {InstrumentState::Ready, QT_TRANSLATE_NOOP("StateLine", "ready")},
                                            {InstrumentState::Running, QT_TRANSLATE_NOOP("StateLine", "running")},
                                            {InstrumentState::Fault, QT_TRANSLATE_NOOP("StateLine", "fault")}}};

} // namespace

StateLine::StateLine(QWidget* parent) : QWidget(parent) {
    setMinimumSize(sizeHint());
    setAccessibleName(tr("State of the instrument"));
}

void StateLine::setState(InstrumentState state) {
    m_state = state == InstrumentState::Connecting ? InstrumentState::Absent : state;
    for (const StateWord& one : kStates) {
        if (one.state == m_state) {
            setAccessibleDescription(QCoreApplication::translate("StateLine", one.word));
        }
    }
    update();
}

void StateLine::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const double step = width() / static_cast<double>(kStates.size());
    const double y = 12;
    for (std::size_t i = 0; i < kStates.size(); ++i) {
        const QPointF at(step * (static_cast<double>(i) + 0.5), y);
        const bool isNow = kStates[i].state == m_state;
        const bool isFault = kStates[i].state == InstrumentState::Fault;
        const QColor colour = !isNow ? t.line : isFault ? t.brick : t.plum;
        if (i > 0) {
            painter.setPen(QPen(t.line, 1.4, isFault ? Qt::DotLine : Qt::SolidLine));
            painter.drawLine(QPointF(at.x() - step + 9, y), QPointF(at.x() - 9, y));
        }
        painter.setPen(QPen(isNow ? colour : t.mute, 1.6));
        painter.setBrush(isNow ? colour : t.card);
        if (isFault) { // a square among discs
            painter.drawRect(QRectF(at.x() - 4.5, y - 4.5, 9, 9));
        } else {
            painter.drawEllipse(at, isNow ? 6.5 : 4.5, isNow ? 6.5 : 4.5);
        }
        if (isNow && kStates[i].state == InstrumentState::Running) {
            painter.setPen(Qt::NoPen);
            painter.setBrush(t.onPlum);
            painter.drawPolygon(QPolygonF{{at.x() - 2, y - 3.2}, {at.x() - 2, y + 3.2}, {at.x() + 3.4, y}});
        }
        painter.setFont(uiFont(12, isNow ? QFont::Bold : QFont::Normal));
        painter.setPen(isNow ? colour : t.mute);
        painter.drawText(QRectF(at.x() - step / 2, 22, step, 17), Qt::AlignCenter,
                         QCoreApplication::translate("StateLine", kStates[i].word));
    }
}

AcquireCard::AcquireCard(Workspace& workspace, QWidget* parent)
    : Card({}, parent), m_workspace(workspace), m_acquisition(Acquisition::of(workspace)) {
    auto* top = new QHBoxLayout;
    top->setSpacing(8);
    m_model = makeLabel({}, "strong", this);
    m_model->setObjectName(QStringLiteral("instrumentModel"));
    top->addWidget(m_model);
    m_place = makeField(QStringLiteral("instrumentPlace"), 150, this);
    m_place->setAccessibleName(tr("Host and port of the instrument"));
    m_place->setPlaceholderText(QStringLiteral("localhost:5025"));
    m_place->setText(settings::instrumentPlace());
    top->addWidget(m_place);
    m_connect = makeButton(tr("Connect"), "normal", QStringLiteral("instrumentConnect"), this);
    top->addWidget(m_connect);
    top->addStretch();
    m_state = new StateLine(this);
    m_state->setObjectName(QStringLiteral("instrumentState"));
    top->addWidget(m_state);
    body()->addLayout(top);

    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    m_list = makeButton(tr("Start the list"), "primary", QStringLiteral("instrumentStart"), this);
    m_list->setToolTip(tr("Measures the planned runs one after the other"));
    m_run = makeButton(tr("This run"), "normal", QStringLiteral("instrumentRun"), this);
    m_run->setToolTip(tr("Measures the run that is chosen, Ctrl+Enter"));
    m_inject = makeButton(tr("Inject"), "normal", QStringLiteral("instrumentInject"), this);
    m_inject->setToolTip(tr("Sets time 0 to now; what came before has negative times"));
    m_stop = makeButton(tr("Stop"), "normal", QStringLiteral("instrumentStop"), this);
    for (QPushButton* button : {m_list, m_run, m_inject, m_stop}) {
        row->addWidget(button);
    }
    row->addWidget(makeLabel(tr("Minutes"), "mute", this));
    m_minutes = new NumberField(QStringLiteral("instrumentMinutes"), 48, this);
    m_minutes->setAccessibleName(tr("Length of a run in minutes"));
    m_minutes->setPlaceholderText(tr("own"));
    m_minutes->setToolTip(tr("Length of a run; empty: as the instrument has it"));
    m_minutes->take = [this](std::optional<double> minutes) {
        if (minutes && !(*minutes > 0)) {
            return false;
        }
        m_acquisition.setMinutes(minutes);
        return true;
    };
    row->addWidget(m_minutes);
    row->addWidget(makeLabel(tr("Injects by itself"), "mute", this));
    m_injects = new Switch(this);
    m_injects->setObjectName(QStringLiteral("instrumentInjects"));
    m_injects->setAccessibleName(tr("The instrument injects by itself"));
    m_injects->setChecked(true);
    row->addWidget(m_injects);
    m_progress = makeLabel({}, "mute", this);
    m_progress->setObjectName(QStringLiteral("instrumentProgress"));
    row->addWidget(m_progress, 1);
    body()->addLayout(row);

    connect(m_connect, &QPushButton::clicked, this, &AcquireCard::connectOrNot);
    connect(m_place, &QLineEdit::returnPressed, this, &AcquireCard::connectOrNot);
    connect(m_list, &QPushButton::clicked, this, [this] { m_acquisition.startList(); });
    connect(m_run, &QPushButton::clicked, this, &AcquireCard::measure);
    connect(m_inject, &QPushButton::clicked, this, [this] { m_acquisition.runner().inject(); });
    connect(m_stop, &QPushButton::clicked, this, [this] { m_acquisition.runner().stop(); });
    connect(m_injects, &Switch::toggled, this, [this](bool isOn) { m_acquisition.runner().setInjects(isOn); });
    connect(&m_acquisition, &Acquisition::changed, this, &AcquireCard::refresh);
    connect(&m_acquisition, &Acquisition::grown, this, [this] { m_progress->setText(progressText()); });
    refresh();
}

void AcquireCard::connectOrNot() {
    if (m_acquisition.line().state() != InstrumentState::Absent) {
        m_acquisition.disconnect();
        return;
    }
    const QString place = m_place->text().trimmed().isEmpty() ? m_place->placeholderText() : m_place->text();
    if (m_acquisition.connectTo(place)) {
        settings::rememberInstrument(place);
    }
}

void AcquireCard::measure() {
    ListRunner& runner = m_acquisition.runner();
    if (runner.isWaitingForInjection()) {
        runner.inject();
    } else if (!runner.isRunning()) {
        m_acquisition.startRun(TraceLook::of(m_workspace).run());
    }
}

QString AcquireCard::progressText() const {
    const ListRunner& runner = m_acquisition.runner();
    if (!runner.isRunning()) {
        std::size_t planned = 0;
        for (const auto& [place, run] : m_workspace.batch().runs) {
            planned += place.carrier == m_workspace.carrierNumber() && run.state == RunState::Planned ? 1u : 0u;
        }
        QString out = planned == 0 ? tr("No run is planned") : counted(planned, tr("run planned"), tr("runs planned"));
        if (const auto seconds = m_acquisition.secondsLeft(); seconds && planned > 0) {
            constexpr double kSecondsPerMinute = 60;
            out += tr(" · about %1 min").arg(shown(formatFigures(*seconds / kSecondsPerMinute, 2)));
        }
        return out;
    }
    const GrowingRun& run = runner.run();
    if (run.size() == 0) {
        return tr("Run %1").arg(runner.place()->row + 1);
    }
    return tr("Run %1 · %2 %3 · %4 points")
        .arg(runner.place()->row + 1)
        .arg(shown(formatDecimals(run.x.back(), 2)), text(run.xUnit))
        .arg(run.size());
}

void AcquireCard::refresh() {
    Connection& line = m_acquisition.line();
    ListRunner& runner = m_acquisition.runner();
    m_state->setState(line.state());
    const bool isOpen = line.isOpen();
    const QString model = line.model();
    m_model->setText(isOpen && !model.isEmpty() ? model.at(0).toUpper() + model.mid(1) : tr("Instrument"));
    m_connect->setText(line.state() == InstrumentState::Absent ? tr("Connect") : tr("Disconnect"));
    m_place->setEnabled(line.state() == InstrumentState::Absent);
    const bool isRunning = runner.isRunning();
    m_list->setEnabled(isOpen && !isRunning && nextPlanned(m_workspace.batch(), m_workspace.carrierNumber()));
    m_run->setEnabled(isOpen && !isRunning);
    m_inject->setEnabled(isRunning && runner.isWaitingForInjection());
    m_stop->setEnabled(isRunning);
    m_progress->setText(progressText());
}

} // namespace nuvat
