// nuvat-sim KIND: a stand-in for an instrument, on a socket of this machine.
#include "nuvat/core/base/number.h"
#include "server.h"

#include <iostream>
#include <QCoreApplication>

namespace nuvat {
namespace {

constexpr const char* kHelp = R"(nuvat-sim KIND [options]: a stand-in for an instrument, on a socket of this machine.

KIND is chromatograph, gas-chromatograph (of the demo of esters), plate-reader, spectrophotometer, potentiostat or
autosampler.
  --port N         where it listens; 0, the default: any port that is free
  --speed F        how many seconds of the instrument pass in one (default 1)
  --seed N         what it measures follows from this (default 1)
  --warm-up S      seconds until it is ready (default 0)
  --vials LIST     contents of vials or wells: 1=0,2=1,3=2.5
  --misbehave WHAT silent, slow, garbage, cut, drift, bubble, carry-over, empty-vial
  --after N        right answers before the line misbehaves (default 20)
Prints the port on which it listens. The commands are in docs/instruments.md.
)";

struct Call {
    DeviceSettings device;
    double speed = 1;
    int port = 0, after = 20;
};

bool takeVials(const std::string& list, DeviceSettings& device) {
    std::size_t from = 0;
    while (from <= list.size()) {
        const std::size_t comma = std::min(list.find(',', from), list.size());
        const std::string one = list.substr(from, comma - from);
        const std::size_t sign = one.find('=');
        const auto vial = parseNumber(one.substr(0, sign));
        const auto content = sign == std::string::npos ? std::nullopt : parseNumber(one.substr(sign + 1));
        if (!vial || !content || *vial < 1 || *content < 0) {
            return false;
        }
        device.contents[static_cast<int>(*vial)] = *content;
        from = comma + 1;
    }
    return true;
}

/// @return what is wrong with an option, empty where nothing is
std::string takeOption(const std::string& option, const std::string& value, Call& call) {
    constexpr double kHighestPort = 65535;
    const auto number = parseNumber(value);
    const auto inRange = [&](double low, double high) { return number && *number >= low && *number <= high; };
    if (option == "--vials") {
        return takeVials(value, call.device) ? "" : "--vials takes a list like 1=0,2=1,3=2.5";
    }
    if (option == "--misbehave") {
        const auto what = misbehaviourFromName(value);
        call.device.misbehaviour = what.value_or(Misbehaviour::None);
        return what ? "" : "there is no misbehaviour " + value;
    }
    if (option == "--port" && inRange(0, kHighestPort)) {
        call.port = static_cast<int>(*number);
    } else if (option == "--speed" && inRange(1e-3, 1e6)) {
        call.speed = *number;
    } else if (option == "--seed" && inRange(0, 1e15)) {
        call.device.seed = static_cast<std::uint64_t>(*number);
    } else if (option == "--warm-up" && inRange(0, 1e6)) {
        call.device.warmUpSeconds = *number;
    } else if (option == "--after" && inRange(0, 1e9)) {
        call.after = static_cast<int>(*number);
    } else {
        return "this is not understood: " + option + " " + value;
    }
    return "";
}

int run(int argc, char** argv) {
    const std::vector<std::string> words(argv + 1, argv + argc);
    if (words.empty() || words.front() == "--help" || words.front() == "-h") {
        (words.empty() ? std::cerr : std::cout) << kHelp;
        return words.empty() ? 2 : 0;
    }
    Call call;
    const auto kind = deviceKindFromName(words.front());
    std::string wrong = kind ? "" : "there is no kind of instrument " + words.front();
    call.device.kind = kind.value_or(DeviceKind::Chromatograph);
    for (std::size_t i = 1; wrong.empty() && i < words.size(); i += 2) {
        wrong = i + 1 < words.size() ? takeOption(words[i], words[i + 1], call) : words[i] + " needs a value";
    }
    if (!wrong.empty()) {
        std::cerr << "nuvat-sim: " << wrong << ".\n\n" << kHelp;
        return 2;
    }
    QCoreApplication application(argc, argv);
    DeviceServer server(call.device, call.speed, call.after);
    const quint16 port = server.listen(static_cast<quint16>(call.port));
    if (port == 0) {
        std::cerr << "nuvat-sim: port " << call.port << " is taken. Choose another, or leave --port out.\n";
        return 1;
    }
    std::cout << port << std::endl; // whoever started it waits for this line
    return QCoreApplication::exec();
}

} // namespace
} // namespace nuvat

int main(int argc, char** argv) {
    return nuvat::run(argc, argv);
}
