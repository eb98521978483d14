#pragma once

#include "nuvat/core/base/error.h"

#include <deque>
#include <functional>
#include <QObject>
#include <QTcpSocket>
#include <QTimer>
#include <string>

namespace nuvat {

/// How an instrument stands.
enum class InstrumentState { Absent, Connecting, Idle, WarmingUp, Ready, Running, Fault };

/// The line to one instrument. Everything is asynchronous; nothing waits. What is asked is answered in its order, or
/// fails: an instrument that does not answer in time, or closes the line, ends it, since an answer that comes late
/// would be taken for another one.
class Connection : public QObject {
    Q_OBJECT
public:
    explicit Connection(QObject* parent = nullptr);
    ~Connection() override;

    void setTimeout(int millis) { m_timeout.setInterval(millis); } ///< for each answer; 5 s
    void open(const QString& host, quint16 port);
    void close();
    bool isOpen() const { return m_state != InstrumentState::Absent && m_state != InstrumentState::Connecting; }
    InstrumentState state() const { return m_state; }
    QString identity() const { return m_identity; } ///< of *IDN?, "NUVAT,CHROMATOGRAPH,…"
    QString model() const;                          ///< the second part of it
    QString place() const { return m_place; }       ///< "localhost:5025"

    using Answer = std::function<void(const Result<std::string>&)>;
    /// A command without an answer.
    void send(const QByteArray& command);
    /// A query. `then` is called once, with the answer or why there is none: instrument.timeout, instrument.lost,
    /// instrument.absent.
    void ask(const QByteArray& query, Answer then);

Q_SIGNALS:
    void stateChanged();
    /// The line is gone: an Error with what to do. Not after close().
    void lost(const nuvat::Error& error);

private:
    struct Query {
        QByteArray line;
        Answer then;
    };
    void identify();
    void askState();
    void pump();
    void read();
    void drop(const Error& error);
    void setState(InstrumentState state);

    QTcpSocket m_socket;
    QTimer m_timeout, m_poll;
    std::deque<Query> m_queue; ///< the first is being answered when m_isAsking
    bool m_isAsking = false;
    InstrumentState m_state = InstrumentState::Absent;
    QString m_identity, m_place;
    QByteArray m_bytes;
};

} // namespace nuvat
