#pragma once

#include <QElapsedTimer>
#include <QProcess>
#include <QString>
#include <QStringList>

namespace nuvat::test {

/// nuvat-sim in a process of its own.
class StandIn {
public:
    explicit StandIn(const QStringList& arguments) {
        m_process.setProcessChannelMode(QProcess::SeparateChannels);
        m_process.start(QStringLiteral(NUVAT_SIM), arguments);
        constexpr int kPatience = 30'000;
        QElapsedTimer clock;
        clock.start();
        while (!m_process.canReadLine() && clock.elapsed() < kPatience && m_process.state() != QProcess::NotRunning) {
            m_process.waitForReadyRead(200);
        }
        m_port = m_process.readLine().trimmed().toInt();
    }
    ~StandIn() {
        m_process.kill();
        m_process.waitForFinished();
    }
    StandIn(const StandIn&) = delete;
    StandIn& operator=(const StandIn&) = delete;
    QString place() const { return QStringLiteral("localhost:%1").arg(m_port); }
    int port() const { return m_port; }
    void vanish() { m_process.kill(); }

private:
    QProcess m_process;
    int m_port = 0;
};

} // namespace nuvat::test
