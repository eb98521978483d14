#include "nuvat/instrument/connection.h"

#include "nuvat/core/base/text.h"

namespace nuvat {

namespace {

constexpr int kTimeoutMillis = 5000;
constexpr int kPollMillis = 400;
constexpr qsizetype kLongestAnswer = 1 << 20;

} // namespace

Connection::Connection(QObject* parent) : QObject(parent) {
    m_timeout.setSingleShot(true);
    m_timeout.setInterval(kTimeoutMillis);
    m_poll.setInterval(kPollMillis);
    connect(&m_socket, &QTcpSocket::connected, this, &Connection::identify);
    connect(&m_socket, &QTcpSocket::readyRead, this, &Connection::read);
    connect(&m_socket, &QTcpSocket::disconnected, this, [this] {
        drop(Error{"instrument.lost", "The instrument at " + m_place.toStdString() + " closed the line.",
                   "Look whether it is switched on and connected, then connect again. What it gave so far is kept."});
    });
    connect(&m_socket, &QTcpSocket::errorOccurred, this, [this](QAbstractSocket::SocketError error) {
        if (error != QAbstractSocket::RemoteHostClosedError) {
            drop(Error{"instrument.absent",
                       "There is no instrument at " + m_place.toStdString() + " (" +
                           m_socket.errorString().toStdString() + ").",
                       "Check host and port, and that it is switched on."});
        }
    });
    connect(&m_timeout, &QTimer::timeout, this, [this] {
        drop(Error{"instrument.timeout",
                   "The instrument at " + m_place.toStdString() + " did not answer within " +
                       std::to_string(m_timeout.interval() / 1000) + " seconds.",
                   "Look at its display, then connect again. What it gave so far is kept."});
    });
    connect(&m_poll, &QTimer::timeout, this, &Connection::askState);
}

Connection::~Connection() {
    m_socket.disconnect(this); // its end says that the line is gone, to whom nobody listens any more
}

void Connection::open(const QString& host, quint16 port) {
    close();
    m_place = QStringLiteral("%1:%2").arg(host).arg(port);
    setState(InstrumentState::Connecting);
    m_timeout.start();
    m_socket.connectToHost(host, port);
}

void Connection::close() {
    m_timeout.stop();
    m_poll.stop();
    m_queue.clear();
    m_isAsking = false;
    m_bytes.clear();
    m_identity.clear();
    setState(InstrumentState::Absent);
    m_socket.abort();
}

QString Connection::model() const {
    const QString model = m_identity.section(QLatin1Char(','), 1, 1).trimmed().toLower();
    return model.isEmpty() ? tr("instrument") : model;
}

void Connection::setState(InstrumentState state) {
    if (m_state != state) {
        m_state = state;
        Q_EMIT stateChanged();
    }
}

void Connection::identify() {
    m_timeout.stop();
    setState(InstrumentState::Idle);
    ask("*IDN?", [this](const Result<std::string>& answer) {
        if (!answer) {
            return;
        }
        m_identity = QString::fromStdString(excerpt(*answer));
        if (m_identity.count(QLatin1Char(',')) != 3) {
            drop(Error{"instrument.unknown",
                       "What answers at " + m_place.toStdString() + " is no instrument that Nuvat can speak to.",
                       "Check host and port."});
            return;
        }
        Q_EMIT stateChanged();
        m_poll.start();
        askState();
    });
}

void Connection::askState() {
    if (m_queue.size() > 1) {
        return; // it is busy enough
    }
    ask("STAT:OPER:COND?", [this](const Result<std::string>& answer) {
        if (!answer) {
            return;
        }
        bool isNumber = false;
        const int bits = QByteArray::fromStdString(*answer).trimmed().toInt(&isNumber);
        if (!isNumber) {
            return; // it is asked again soon
        }
        // SCPI-99, volume 1, section 20.1; bit 9 is the device's own.
        setState((bits & 1 << 9) != 0   ? InstrumentState::Fault
                 : (bits & 1 << 4) != 0 ? InstrumentState::Running
                 : (bits & 1 << 5) != 0 ? InstrumentState::Ready
                 : (bits & 1 << 1) != 0 ? InstrumentState::WarmingUp
                                        : InstrumentState::Idle);
    });
}

void Connection::send(const QByteArray& command) {
    m_queue.push_back({command, {}});
    pump();
}

void Connection::ask(const QByteArray& query, Answer then) {
    if (!isOpen()) {
        then(fail("instrument.absent", "No instrument is connected.", "Choose host and port, and connect."));
        return;
    }
    m_queue.push_back({query, std::move(then)});
    pump();
}

void Connection::pump() {
    while (!m_isAsking && !m_queue.empty() && isOpen()) {
        m_socket.write(m_queue.front().line + '\n');
        if (m_queue.front().then) {
            m_isAsking = true;
            m_timeout.start();
        } else {
            m_queue.pop_front();
        }
    }
}

void Connection::read() {
    m_bytes += m_socket.readAll();
    qsizetype end = m_bytes.indexOf('\n');
    while (end >= 0) {
        const std::string line = m_bytes.left(end).trimmed().toStdString();
        m_bytes.remove(0, end + 1);
        if (m_isAsking) {
            m_timeout.stop();
            m_isAsking = false;
            const Query query = std::move(m_queue.front());
            m_queue.pop_front();
            query.then(line);
        }
        pump();
        end = m_bytes.indexOf('\n');
    }
    if (m_bytes.size() > kLongestAnswer) {
        drop(Error{"instrument.garbage", "The instrument at " + m_place.toStdString() + " sends what is no answer.",
                   "Switch it off and on, then connect again. What it gave so far is kept."});
    }
}

void Connection::drop(const Error& error) {
    if (m_state == InstrumentState::Absent) {
        return;
    }
    std::deque<Query> queue = std::move(m_queue);
    close();
    for (const Query& query : queue) {
        if (query.then) {
            query.then(tl::unexpected(error));
        }
    }
    Q_EMIT lost(error);
}

} // namespace nuvat
