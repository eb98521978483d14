#include "nuvat/instrument/plate_reading.h"

#include "answers.h"
#include "nuvat/core/base/checksum.h"
#include "nuvat/core/base/number.h"

namespace nuvat {

PlateReading::PlateReading(Connection& line, QObject* parent) : QObject(parent), m_line(line) {
    m_poll.setInterval(kPollMillis);
    connect(&m_poll, &QTimer::timeout, this, [this] {
        if (!m_isAsking) {
            ask();
        }
    });
    connect(&m_line, &Connection::lost, this, [this](const Error& error) {
        if (m_isRunning) {
            giveUp(error);
        }
    });
}

std::size_t PlateReading::wellsInAll() const {
    return static_cast<std::size_t>(m_request.cycles) * m_request.wavelengths.size() *
           static_cast<std::size_t>(m_rows) * static_cast<std::size_t>(m_columns);
}

void PlateReading::start(const PlateRequest& request) {
    m_request = request;
    m_values.clear();
    m_rows = m_columns = m_garbled = 0;
    m_isAsking = m_isDone = false;
    if (!m_line.isOpen()) {
        Q_EMIT failed(Error{"instrument.absent", "No instrument is connected.", "Choose host and port, and connect."});
        return;
    }
    m_isRunning = true;
    const int serial = ++m_serial;
    m_line.ask("SENS:PLAT?", [this, serial](const Result<std::string>& answer) {
        if (serial != m_serial || !m_isRunning || !answer) {
            return;
        }
        std::string_view rest = *answer;
        const auto rows = numberIn(cut(rest, ',')), columns = numberIn(rest);
        constexpr double kMost = 48; // of 1536 wells
        const bool isPlate = rows && columns && *rows >= 1 && *columns >= 1 && *rows <= kMost && *columns <= kMost;
        if (!isPlate) {
            giveUp(Error{"instrument.no-plate",
                         "The instrument at " + m_line.place().toStdString() + " reads no plates.",
                         "Connect a plate reader."});
            return;
        }
        m_rows = static_cast<int>(*rows);
        m_columns = static_cast<int>(*columns);
        std::string list;
        for (const double wavelength : m_request.wavelengths) {
            list += (list.empty() ? "" : ",") + formatNumber(wavelength);
        }
        m_line.send("SENS:WAV " + QByteArray::fromStdString(list));
        m_line.send("SENS:CYCL " + QByteArray::fromStdString(std::to_string(m_request.cycles) + "," +
                                                             formatNumber(m_request.interval)));
        m_line.send("INIT");
        m_poll.start();
    });
}

void PlateReading::ask() {
    m_isAsking = true;
    m_line.ask("FETC? " + QByteArray::number(qulonglong(m_values.size())),
               [this, serial = m_serial](const Result<std::string>& answer) {
                   if (serial != m_serial || !m_isRunning) {
                       return;
                   }
                   m_isAsking = false;
                   if (!answer) {
                       return; // the line says so itself
                   }
                   const std::size_t before = m_values.size();
                   if (!take(*answer)) {
                       if (++m_garbled >= kMostGarbled) {
                           giveUp(Error{"instrument.garbage", "The instrument sends what is no reading.",
                                        "Switch it off and on, then connect again. What it gave so far is kept."});
                       }
                       return;
                   }
                   m_garbled = 0;
                   if (m_values.size() > before) {
                       Q_EMIT grown();
                   }
                   if (m_isDone || m_values.size() >= wellsInAll()) {
                       end();
                   }
               });
}

/// "first,count,state;cycle,wavelength,row,column,value;…": wells in their order, each told by all it says.
bool PlateReading::take(const std::string& answer) {
    std::string_view rest = answer;
    std::string_view head = cut(rest, ';');
    const auto first = numberIn(cut(head, ',')), count = numberIn(cut(head, ','));
    if (!first || !count || (head != "R" && head != "D") || static_cast<std::size_t>(*first) != m_values.size()) {
        return false;
    }
    const auto wells = static_cast<std::size_t>(m_rows) * static_cast<std::size_t>(m_columns);
    std::vector<double> more;
    while (!rest.empty()) {
        std::string_view row = cut(rest, ';');
        std::array<std::optional<double>, 5> parts;
        for (auto& part : parts) {
            part = numberIn(cut(row, ','));
            if (!part) {
                return false;
            }
        }
        const std::size_t index = m_values.size() + more.size(), read = index / wells, well = index % wells;
        const bool isItsPlace = *parts[0] == static_cast<double>(read / m_request.wavelengths.size() + 1) &&
                                *parts[1] == m_request.wavelengths[read % m_request.wavelengths.size()] &&
                                *parts[2] == static_cast<double>(well / static_cast<std::size_t>(m_columns) + 1) &&
                                *parts[3] == static_cast<double>(well % static_cast<std::size_t>(m_columns) + 1);
        if (!isItsPlace || index >= wellsInAll()) {
            return false;
        }
        more.push_back(*parts[4]);
    }
    if (more.size() != static_cast<std::size_t>(*count)) {
        return false;
    }
    m_values.insert(m_values.end(), more.begin(), more.end());
    m_isDone = head == "D";
    return true;
}

void PlateReading::stop() {
    if (m_isRunning) {
        m_line.send("ABOR");
        end();
    }
}

void PlateReading::end() {
    m_poll.stop();
    m_isRunning = false;
    ++m_serial;
    Q_EMIT finished();
}

void PlateReading::giveUp(const Error& error) {
    m_poll.stop();
    m_isRunning = false;
    ++m_serial;
    Q_EMIT failed(error);
}

std::size_t PlateReading::shownRead() const {
    const auto wells = static_cast<std::size_t>(m_rows) * static_cast<std::size_t>(m_columns);
    return wells == 0 || m_values.empty() ? 0 : (m_values.size() - 1) / wells;
}

std::optional<double> PlateReading::shownAt(int row, int column) const {
    const auto wells = static_cast<std::size_t>(m_rows) * static_cast<std::size_t>(m_columns);
    const std::size_t index = shownRead() * wells + static_cast<std::size_t>(row * m_columns + column);
    return index < m_values.size() ? std::optional(m_values[index]) : std::nullopt;
}

double PlateReading::shownWavelength() const {
    return m_request.wavelengths[shownRead() % m_request.wavelengths.size()];
}

std::vector<Reading> PlateReading::readings(std::int64_t nowMillis) const {
    std::vector<Reading> out;
    const auto wells = static_cast<std::size_t>(m_rows) * static_cast<std::size_t>(m_columns);
    for (std::size_t begin = 0; wells > 0 && begin < m_values.size(); begin += wells) {
        const std::size_t read = begin / wells;
        const std::size_t cycle = read / m_request.wavelengths.size();
        Grid grid{m_rows, m_columns, std::vector<ReadingWell>(wells)};
        for (std::size_t well = 0; well < wells && begin + well < m_values.size(); ++well) {
            grid.wells[well].value = m_values[begin + well];
            grid.wells[well].text = formatNumber(m_values[begin + well]);
        }
        Reading one;
        one.source = m_line.model().toStdString();
        one.slot.channel = formatNumber(m_request.wavelengths[read % m_request.wavelengths.size()]) + " nm";
        if (m_request.cycles > 1) { // as files of readings over time are called
            one.slot.channel += ", " + formatNumber(static_cast<double>(cycle) * m_request.interval) + " s";
        }
        one.understood = std::to_string(m_rows) + " × " + std::to_string(m_columns) + ", read from the instrument";
        one.takenInMillis = nowMillis;
        one.payload = Payload::of(std::move(grid));
        one.checksum = fnv1a(one.payload.id());
        out.push_back(std::move(one));
    }
    return out;
}

} // namespace nuvat
