#include "nuvat/cli/command_line.h"

#include <iostream>
#include <string>
#include <vector>

int main(int argc, char** argv) {
    std::ios::sync_with_stdio(false); // long outputs go through a buffer of their own
    return nuvat::runCommandLine(std::vector<std::string>(argv + 1, argv + argc), std::cout, std::cerr);
}
