#include "report_process.h"

#include <spawn.h>
#include <string>
#include <sys/wait.h>
#include <unistd.h>

namespace nuvat {

Result<int> writeReportOf(const std::filesystem::path& batch, const std::filesystem::path& pdf) {
    std::error_code error;
    const auto program = std::filesystem::read_symlink("/proc/self/exe", error).parent_path() / "nuvat-pdf";
    if (error || !std::filesystem::exists(program, error)) {
        return fail("cli.no-report", "This installation makes no reports: nuvat-pdf is not beside nuvat-cli.",
                    "Install Nuvat with its window, or export CSV, JSON or XLSX.");
    }
    std::string words[]{program.string(), batch.string(), pdf.string()};
    char* arguments[]{words[0].data(), words[1].data(), words[2].data(), nullptr};
    pid_t child = 0;
    if (::posix_spawn(&child, program.c_str(), nullptr, nullptr, arguments, environ) != 0) {
        return fail("cli.no-report", program.string() + " cannot be started.", "Check that it may be executed.");
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    if (!WIFEXITED(status)) {
        return fail("cli.no-report", "The report could not be made: " + program.string() + " was ended.",
                    "Try again, or save the report from the window.");
    }
    return WEXITSTATUS(status);
}

} // namespace nuvat
