#include "nuvat/cli/command_line.h"

#include <iostream>
#include <string>
#include <vector>

int main(int argc, char** argv) {
    return nuvat::runCommandLine(std::vector<std::string>(argv + 1, argv + argc), std::cout, std::cerr);
}
