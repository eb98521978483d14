#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace nuvat {

// What is said of samples once they are measured; all described in docs/cli.md. @return the exit status

int combineCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);
int decideCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);
int controlPercentCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);
int bestCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);
int polishCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

} // namespace nuvat
