#pragma once

#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace nuvat::test {

/// tests/reference/data
std::filesystem::path referenceFile(const std::string& name);
nlohmann::json referenceJson(const std::string& name);
/// Columns of a reference CSV by heading.
std::map<std::string, std::vector<double>> referenceColumns(const std::string& name);
/// The rows of a reference CSV as text, without the heading.
std::vector<std::vector<std::string>> referenceRows(const std::string& name);
/// Correct significant digits of `got` (log relative error), 16 when equal.
double correctDigits(double got, double want);
/// A folder of its own for one test, removed at the end.
class TemporaryFolder {
public:
    TemporaryFolder();
    ~TemporaryFolder();
    TemporaryFolder(const TemporaryFolder&) = delete;
    TemporaryFolder& operator=(const TemporaryFolder&) = delete;
    std::filesystem::path operator/(const std::string& name) const { return m_path / name; }
    const std::filesystem::path& path() const { return m_path; }

private:
    std::filesystem::path m_path;
};
std::string contentOf(const std::filesystem::path& path);

} // namespace nuvat::test
