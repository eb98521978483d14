#include "helper_process.h"

#include <filesystem>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

namespace nuvat {

Result<int> runBeside(const std::string& program, const std::vector<std::string>& arguments, const std::string& what) {
    std::error_code error;
    const auto path = std::filesystem::read_symlink("/proc/self/exe", error).parent_path() / program;
    if (error || !std::filesystem::exists(path, error)) {
        return fail("cli.no-helper",
                    what + " cannot be made by this installation: " + program + " is not beside nuvat-cli.",
                    "Install Nuvat with its window.");
    }
    std::vector<std::string> words{path.string()};
    words.insert(words.end(), arguments.begin(), arguments.end());
    std::vector<char*> pointers;
    for (std::string& word : words) {
        pointers.push_back(word.data());
    }
    pointers.push_back(nullptr);
    pid_t child = 0;
    if (::posix_spawn(&child, path.c_str(), nullptr, nullptr, pointers.data(), environ) != 0) {
        return fail("cli.no-helper", path.string() + " cannot be started.", "Check that it may be executed.");
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    if (!WIFEXITED(status)) {
        return fail("cli.no-helper", what + " could not be made: " + path.string() + " was ended.",
                    "Try again, or use the window.");
    }
    return WEXITSTATUS(status);
}

} // namespace nuvat
