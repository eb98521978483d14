#pragma once

#include "nuvat/batch/command.h"

#include <functional>
#include <string>
#include <vector>

namespace nuvat::test {

/// A command of a kind, made for whatever batch there is.
struct KindOfCommand {
    std::string name;
    std::function<Result<Command>(const Batch&)> make;
};

/// One of every kind, in an order in which each finds something to do in sampleDocument(). @param variant changes what
/// they set, so that they do something again when they come round
std::vector<KindOfCommand> everyCommand(int variant = 0);
/// Those that there were before a batch had several carriers: the digits of old and new versions are compared on what
/// these make.
std::vector<KindOfCommand> commandsOnOnePlate(int variant = 0);

} // namespace nuvat::test
