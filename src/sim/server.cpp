#include "server.h"

#include <QTcpSocket>
#include <QTimer>

namespace nuvat {

DeviceServer::DeviceServer(const DeviceSettings& settings, double speed, int after, QObject* parent)
    : QObject(parent), m_device(makeDevice(settings)), m_misbehaviour(settings.misbehaviour), m_speed(speed),
      m_left(after) {
    m_clock.start();
    connect(&m_server, &QTcpServer::newConnection, this, &DeviceServer::accept);
}

quint16 DeviceServer::listen(quint16 port) {
    return m_server.listen(QHostAddress::LocalHost, port) ? m_server.serverPort() : quint16(0);
}

double DeviceServer::seconds() const {
    constexpr double kPerSecond = 1e9;
    return m_speed * static_cast<double>(m_clock.nsecsElapsed()) / kPerSecond;
}

void DeviceServer::accept() {
    while (QTcpSocket* socket = m_server.nextPendingConnection()) {
        connect(socket, &QTcpSocket::readyRead, this, [this, socket] { read(socket); });
        connect(socket, &QTcpSocket::disconnected, socket, &QObject::deleteLater);
    }
}

void DeviceServer::read(QTcpSocket* socket) {
    constexpr qint64 kLongestLine = 4096;
    while (socket->canReadLine()) {
        const QByteArray line = socket->readLine(kLongestLine).trimmed();
        const auto reply = m_device->take(line.toStdString(), seconds());
        if (reply) {
            answer(socket, QByteArray::fromStdString(*reply));
        }
    }
    if (socket->bytesAvailable() > kLongestLine) {
        socket->abort(); // no line is as long
    }
}

void DeviceServer::answer(QTcpSocket* socket, const QByteArray& line) {
    const bool misbehaves = isOfLine(m_misbehaviour) && --m_left < 0;
    if (!misbehaves) {
        socket->write(line + '\n');
        return;
    }
    switch (m_misbehaviour) {
    case Misbehaviour::Slow: {
        constexpr int kLateMillis = 3000;
        QTimer::singleShot(kLateMillis, socket, [socket, line] { socket->write(line + '\n'); });
        break;
    }
    case Misbehaviour::Garbage: {
        QByteArray bytes;
        for (int i = 0; i < 60; ++i) {
            const auto one = static_cast<char>((i * 73 + 41 * line.size()) % 251 + 1);
            bytes += one == '\n' ? 'x' : one;
        }
        socket->write(bytes + '\n');
        break;
    }
    case Misbehaviour::Cut:
        socket->write(line.left(line.size() / 2));
        socket->flush();
        socket->disconnectFromHost();
        break;
    default: // silent
        break;
    }
}

} // namespace nuvat
