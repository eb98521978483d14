#include "dialogs/plate_reader.h"

#include "dialogs/form.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "session/acquisition.h"
#include "settings/settings.h"
#include "theme/style.h"

#include <algorithm>
#include <QDateTime>
#include <QPainter>
#include <QRegularExpression>

namespace nuvat {

PlateNow::PlateNow(const PlateReading& reading, QWidget* parent) : QWidget(parent), m_reading(reading) {
    setObjectName(QStringLiteral("plateNow"));
    setAccessibleName(tr("Plate that is being read"));
    setMinimumSize(320, 210);
}

void PlateNow::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    constexpr int kRowsUsual = 8, kColumnsUsual = 12, kHead = 18;
    const int rows = m_reading.rows() > 0 ? m_reading.rows() : kRowsUsual;
    const int columns = m_reading.rows() > 0 ? m_reading.columns() : kColumnsUsual;
    std::optional<double> low, high;
    for (int row = 0; row < m_reading.rows(); ++row) {
        for (int column = 0; column < columns; ++column) {
            if (const auto value = m_reading.shownAt(row, column)) {
                low = std::min(low.value_or(*value), *value);
                high = std::max(high.value_or(*value), *value);
            }
        }
    }
    const double wide = (width() - kHead) / static_cast<double>(columns);
    const double tall = (height() - kHead) / static_cast<double>(rows);
    painter.setFont(uiFont(11));
    for (int row = 0; row < rows; ++row) {
        for (int column = 0; column < columns; ++column) {
            const QRectF cell =
                QRectF(kHead + wide * column, kHead + tall * row, wide, tall).adjusted(1.5, 1.5, -1.5, -1.5);
            const auto value = m_reading.shownAt(row, column); // nothing before the first well
            const double share = value && *high > *low ? (*value - *low) / (*high - *low) : 0;
            const QColor fill = value ? t.heat(share) : t.field;
            painter.setPen(value ? fill : t.line);
            painter.setBrush(fill);
            painter.drawRoundedRect(cell, 4, 4);
            if (value && cell.width() > 26) {
                painter.setPen(t.inkOn(fill));
                painter.drawText(cell, Qt::AlignCenter, shown(formatDecimals(*value, 3)));
            }
        }
    }
    painter.setPen(t.mute);
    for (int column = 0; column < columns; ++column) {
        painter.drawText(QRectF(kHead + wide * column, 0, wide, kHead), Qt::AlignCenter, QString::number(column + 1));
    }
    for (int row = 0; row < rows; ++row) {
        painter.drawText(QRectF(0, kHead + tall * row, kHead, tall), Qt::AlignCenter, text(rowLetters(row)));
    }
}

PlateReader::PlateReader(Workspace& workspace, QWidget* parent)
    : QDialog(parent), m_workspace(workspace), m_reading(m_line) {
    setMinimumWidth(560);
    const Frame frame = makeFrame(*this, "plateReader", tr("Read a plate"), tr("Read"));
    m_read = frame.accept;
    Form form(this);
    form.section(tr("Instrument"));
    m_place = form.line(tr("Host and port"), "readerPlace", settings::instrumentPlace());
    m_wavelengths = form.line(tr("Wavelengths, nm, parted by blanks"), "readerWavelengths", QStringLiteral("450"));
    m_cycles = form.line(tr("How often the plate is read"), "readerCycles", QStringLiteral("1"));
    m_interval = form.line(tr("Seconds from one time to the next"), "readerInterval", QStringLiteral("60"));
    frame.body->addLayout(form.layout());
    auto* words = new QHBoxLayout;
    m_state = makeLabel(tr("not connected"), "mute", this);
    m_state->setObjectName(QStringLiteral("readerState"));
    words->addWidget(m_state);
    words->addStretch();
    m_count = makeLabel({}, "mute", this);
    m_count->setObjectName(QStringLiteral("readerCount"));
    words->addWidget(m_count);
    frame.body->addLayout(words);
    m_plate = new PlateNow(m_reading, this);
    frame.body->addWidget(m_plate, 1);
    frame.body->addLayout(frame.buttons);
    findChild<QPushButton*>(QStringLiteral("dialogCancel"))->setText(tr("Close"));
    connect(m_read, &QPushButton::clicked, this, &PlateReader::readOrStop);
    connect(&m_line, &Connection::stateChanged, this, [this] {
        const bool isKnown = m_line.isOpen() && !m_line.identity().isEmpty();
        if (isKnown && std::exchange(m_wantsToBegin, false)) {
            begin();
        }
        follow();
    });
    connect(&m_line, &Connection::lost, this, [this](const Error& error) {
        m_wantsToBegin = false;
        if (!m_reading.isRunning()) { // else the reading says so
            m_workspace.tell(error);
        }
        follow();
    });
    connect(&m_reading, &PlateReading::grown, this, &PlateReader::follow);
    connect(&m_reading, &PlateReading::finished, this, &PlateReader::take);
    connect(&m_reading, &PlateReading::failed, this, [this](const Error& error) {
        take();
        m_workspace.tell(error);
    });
    follow();
}

PlateReader::~PlateReader() {
    m_reading.stop();
    m_line.disconnect(this);
}

std::optional<PlateRequest> PlateReader::request() const {
    PlateRequest out;
    out.wavelengths.clear();
    const QStringList parts =
        m_wavelengths->text().split(QRegularExpression(QStringLiteral("[\\s;]+")), Qt::SkipEmptyParts);
    for (const QString& part : parts) {
        const auto value = parseTyped(part.toStdString());
        if (!value || *value <= 0) {
            m_workspace.tell(tr("\"%1\" is no wavelength; type for example 450 630.").arg(part), true);
            return std::nullopt;
        }
        out.wavelengths.push_back(*value);
    }
    bool isCount = false;
    out.cycles = m_cycles->text().trimmed().toInt(&isCount);
    const auto interval = parseTyped(m_interval->text().toStdString());
    constexpr int kMostCycles = 1000;
    if (out.wavelengths.empty() || !isCount || out.cycles < 1 || out.cycles > kMostCycles || !interval ||
        *interval <= 0) {
        m_workspace.tell(
            tr("Type a wavelength, how often the plate is read (1 to %1) and the seconds between.").arg(kMostCycles),
            true);
        return std::nullopt;
    }
    out.interval = *interval;
    return out;
}

void PlateReader::readOrStop() {
    if (m_reading.isRunning()) {
        m_reading.stop();
        return;
    }
    if (!request()) {
        return;
    }
    const QString place = m_place->text().trimmed();
    if (m_line.isOpen() && m_line.place() == place) {
        begin();
        return;
    }
    if (!Acquisition::openAt(m_line, place, m_workspace)) {
        return;
    }
    settings::rememberInstrument(place);
    m_wantsToBegin = true;
    follow();
}

void PlateReader::begin() {
    if (const auto asked = request()) {
        m_uid = m_workspace.newest().info.uid;
        m_reading.start(*asked);
        follow();
    }
}

/// Keeps what was read: on the plate that is shown where it is still empty and as large, else on a new one.
void PlateReader::take() {
    follow();
    if (!m_workspace.isOpen() || m_workspace.newest().info.uid != m_uid) {
        m_workspace.tell(tr("The batch that the plate was read for is not open any more; read it again."), true);
        return;
    }
    auto readings = m_reading.readings(QDateTime::currentMSecsSinceEpoch());
    if (readings.empty()) {
        return;
    }
    const Batch& batch = m_workspace.newest();
    const int number = m_workspace.carrierNumber();
    const Carrier& carrier = batch.carriers.at(number);
    const bool isFree =
        carrier.kind == CarrierKind::Plate && carrier.rows == m_reading.rows() &&
        carrier.columns == m_reading.columns() &&
        std::ranges::none_of(batch.inUse, [number](const auto& one) { return one.first.carrier == number; });
    ImportTarget target;
    target.carrier = isFree ? number : 0;
    const std::size_t count = readings.size();
    if (m_workspace.apply(importReadings(batch, std::move(readings), target))) {
        m_workspace.tell(tr("The plate was read: %1.").arg(counted(count, tr("reading"), tr("readings"))), false);
    }
}

void PlateReader::follow() {
    const bool isRunning = m_reading.isRunning();
    m_read->setText(isRunning ? tr("Stop") : tr("Read"));
    m_read->setAutoDefault(!isRunning); // Enter pressed once more stops nothing
    m_read->setDefault(!isRunning);
    const QString state =
        m_line.state() == InstrumentState::Connecting ? tr("connecting")
        : !m_line.isOpen()                            ? tr("not connected")
        : isRunning ? tr("%1, reading at %2 nm").arg(m_line.model(), shown(formatNumber(m_reading.shownWavelength())))
                    : m_line.model();
    m_state->setText(state);
    const std::size_t all = m_reading.wellsInAll();
    m_count->setText(all == 0 ? QString() : tr("%1 of %2 wells").arg(m_reading.wellsRead()).arg(all));
    for (QLineEdit* field : {m_place, m_wavelengths, m_cycles, m_interval}) {
        field->setEnabled(!isRunning);
    }
    m_plate->update();
}

} // namespace nuvat
