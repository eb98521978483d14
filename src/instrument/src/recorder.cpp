#include "nuvat/instrument/recorder.h"

#include "answers.h"
#include "nuvat/batch/document.h"
#include "nuvat/core/base/checksum.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"

namespace nuvat {

ImportedRun GrowingRun::imported(const std::string& name, const std::string& source, const std::string& model) const {
    ImportedRun out{source, "", name, "recorded from " + (model.empty() ? std::string("the instrument") : model), {}};
    std::string all;
    for (std::size_t channel = 0; channel < channels.size(); ++channel) {
        Trace trace;
        trace.xName = xUnit == "nm" ? "wavelength" : xUnit == "V" ? "potential" : "time";
        trace.xUnit = xUnit;
        trace.yName = channels[channel];
        trace.setX(x);
        trace.y = y[channel];
        const Payload payload = Payload::of(std::move(trace));
        all += payload.id();
        out.channels.emplace_back(channels[channel], payload);
    }
    out.checksum = fnv1a(all);
    return out;
}

Recorder::Recorder(Connection& line, QObject* parent) : QObject(parent), m_line(line) {
    m_poll.setInterval(kPollMillis);
    connect(&m_poll, &QTimer::timeout, this, &Recorder::poll);
    connect(&m_line, &Connection::lost, this, [this](const Error& error) {
        if (isRunning()) {
            giveUp(error);
        }
    });
}

void Recorder::start(const RunRequest& request) {
    ++m_serial;
    m_request = request;
    m_run = {};
    m_phase = Phase::Preparing;
    m_isAsking = m_isDone = m_isStopping = false;
    m_garbled = 0;
    m_injectedMillis = 0;
    prepare();
}

void Recorder::prepare() {
    const QByteArray vial = QByteArray::fromStdString(m_request.vial);
    const auto then = [this, serial = m_serial](auto done) {
        return [this, serial, done](const Result<std::string>& answer) {
            if (serial == m_serial && answer && isRunning()) {
                done(*answer);
            }
        };
    };
    if (!vial.isEmpty()) {
        m_line.send("ROUT:VIAL " + vial);
        m_line.ask("ROUT:FILL? " + vial, then([this, vial](const std::string& answer) {
                       if (answer == "0") {
                           giveUp(Error{"instrument.empty-vial", "Vial " + vial.toStdString() + " is empty.",
                                        "Fill it, or correct the vial in the list, and start again."});
                       }
                   }));
    }
    m_line.send("ROUT:DIL " + QByteArray::fromStdString(formatNumber(m_request.dilution)));
    if (m_request.seconds) {
        m_line.send("SENS:TIME " + QByteArray::fromStdString(formatNumber(*m_request.seconds)));
    }
    m_line.ask("SENS:X?", then([this](const std::string& answer) { m_run.xUnit = excerpt(answer, 12); }));
    m_line.ask("SENS:CHAN?", then([this](const std::string& answer) {
                   std::string_view rest = answer;
                   while (!rest.empty()) {
                       m_run.channels.emplace_back(excerpt(trimmed(cut(rest, ','))));
                   }
                   m_run.y.resize(m_run.channels.size());
                   if (m_run.channels.empty()) {
                       giveUp(Error{"instrument.no-channel", "The instrument gives no trace.", "Choose another one."});
                       return;
                   }
                   m_line.send("INIT");
                   m_phase = Phase::Waiting;
                   if (m_request.injects) {
                       inject();
                   }
                   m_poll.start();
               }));
}

void Recorder::inject() {
    if (m_phase != Phase::Waiting) {
        return;
    }
    m_line.send("TRIG");
    m_injectedMillis = systemMillis();
    m_phase = Phase::Running;
    // Time 0 is another one now: what came before is asked for again, with its negative times.
    m_run.x.clear();
    for (auto& y : m_run.y) {
        y.clear();
    }
    ++m_serial;
    m_isAsking = false;
    Q_EMIT grown();
}

void Recorder::stop() {
    if (!isRunning()) {
        return;
    }
    m_line.send("ABOR");
    m_isStopping = true;
    if (m_phase == Phase::Preparing) {
        end();
    }
}

void Recorder::abandon() {
    m_poll.stop();
    m_phase = Phase::Idle;
    ++m_serial;
    if (m_line.isOpen()) {
        m_line.send("ABOR");
    }
}

void Recorder::poll() {
    if (!m_isAsking && (m_phase == Phase::Waiting || m_phase == Phase::Running)) {
        ask();
    }
}

void Recorder::ask() {
    m_isAsking = true;
    m_line.ask("FETC? " + QByteArray::number(qulonglong(m_run.size())),
               [this, serial = m_serial](const Result<std::string>& answer) {
                   if (serial != m_serial || !isRunning()) {
                       return;
                   }
                   m_isAsking = false;
                   if (!answer) {
                       return; // the line says so itself
                   }
                   const std::size_t before = m_run.size();
                   if (!take(*answer)) {
                       if (++m_garbled >= kMostGarbled) {
                           giveUp(Error{"instrument.garbage", "The instrument sends what is no reading.",
                                        "Switch it off and on, then connect again. What it gave so far is kept."});
                       }
                       return;
                   }
                   m_garbled = 0;
                   if (m_run.size() > before) {
                       Q_EMIT grown();
                   }
                   if (m_isDone) {
                       end();
                   } else if (m_run.size() > before + 100) {
                       ask(); // more is waiting
                   }
               });
}

bool Recorder::take(const std::string& answer) {
    std::string_view rest = answer;
    std::string_view head = cut(rest, ';');
    const auto first = numberIn(cut(head, ',')), count = numberIn(cut(head, ','));
    if (!first || !count || (head != "R" && head != "D") || static_cast<std::size_t>(*first) != m_run.size()) {
        return false;
    }
    GrowingRun more;
    more.y.resize(m_run.channels.size());
    while (!rest.empty()) {
        std::string_view row = cut(rest, ';');
        const auto x = numberIn(cut(row, ','));
        if (!x) {
            return false;
        }
        more.x.push_back(*x);
        for (auto& y : more.y) {
            const auto value = numberIn(cut(row, ','));
            if (!value) {
                return false;
            }
            y.push_back(*value);
        }
    }
    if (more.size() != static_cast<std::size_t>(*count)) {
        return false;
    }
    m_run.x.insert(m_run.x.end(), more.x.begin(), more.x.end());
    for (std::size_t i = 0; i < more.y.size(); ++i) {
        m_run.y[i].insert(m_run.y[i].end(), more.y[i].begin(), more.y[i].end());
    }
    m_isDone = head == "D";
    return true;
}

void Recorder::end() {
    m_poll.stop();
    m_phase = Phase::Idle;
    ++m_serial;
    Q_EMIT finished();
}

void Recorder::giveUp(const Error& error) {
    m_poll.stop();
    m_phase = Phase::Idle;
    ++m_serial;
    m_line.send("ABOR");
    Q_EMIT failed(error);
}

} // namespace nuvat
