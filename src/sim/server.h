#pragma once

#include "nuvat/sim/device.h"

#include <QElapsedTimer>
#include <QTcpServer>

class QTcpSocket;

namespace nuvat {

/// Puts a device on a socket of this machine: one line in, one line out.
class DeviceServer : public QObject {
    Q_OBJECT
public:
    /// @param speed how many seconds of the device pass in one; @param after how many answers are right before the
    /// line misbehaves
    DeviceServer(const DeviceSettings& settings, double speed, int after, QObject* parent = nullptr);
    /// @param port 0: any that is free @return the port, or 0 where it cannot listen
    quint16 listen(quint16 port);

private:
    void accept();
    void read(QTcpSocket* socket);
    void answer(QTcpSocket* socket, const QByteArray& line);
    double seconds() const;

    QTcpServer m_server;
    std::unique_ptr<Device> m_device;
    Misbehaviour m_misbehaviour;
    double m_speed;
    int m_left; ///< right answers until the line misbehaves
    QElapsedTimer m_clock;
};

} // namespace nuvat
