#include "support/reference.h"

#include "nuvat/core/base/number.h"

#include <cmath>
#include <cstdlib>
#include <fstream>
#include <sstream>
#include <stdexcept>

namespace nuvat::test {

std::filesystem::path referenceFile(const std::string& name) {
    return std::filesystem::path(NUVAT_TEST_DIR) / "reference" / "data" / name;
}

std::string contentOf(const std::filesystem::path& path) {
    std::ifstream stream(path, std::ios::binary);
    if (!stream) {
        throw std::runtime_error("cannot open " + path.string());
    }
    std::ostringstream out;
    out << stream.rdbuf();
    return out.str();
}

nlohmann::json referenceJson(const std::string& name) {
    return nlohmann::json::parse(contentOf(referenceFile(name)));
}

namespace {
std::vector<std::string> split(const std::string& line) {
    std::vector<std::string> cells(1);
    for (const char c : line) {
        if (c == ',') {
            cells.emplace_back();
        } else if (c != '\r') {
            cells.back() += c;
        }
    }
    return cells;
}
} // namespace

std::vector<std::vector<std::string>> referenceRows(const std::string& name) {
    std::istringstream stream(contentOf(referenceFile(name)));
    std::string line;
    std::getline(stream, line);
    std::vector<std::vector<std::string>> rows;
    while (std::getline(stream, line)) {
        rows.push_back(split(line));
    }
    return rows;
}

std::map<std::string, std::vector<double>> referenceColumns(const std::string& name) {
    std::istringstream stream(contentOf(referenceFile(name)));
    std::string heading;
    std::getline(stream, heading);
    const auto names = split(heading);
    std::map<std::string, std::vector<double>> columns;
    for (const auto& row : referenceRows(name)) {
        for (std::size_t i = 0; i < names.size(); ++i) {
            columns[names[i]].push_back(parseNumber(row.at(i)).value());
        }
    }
    return columns;
}

double correctDigits(double got, double want) {
    if (got == want) {
        return 16;
    }
    const double error = want == 0 ? std::abs(got) : std::abs((got - want) / want);
    return std::min(16.0, -std::log10(error));
}

TemporaryFolder::TemporaryFolder() {
    std::string pattern = (std::filesystem::temp_directory_path() / "nuvat-test-XXXXXX").string();
    if (mkdtemp(pattern.data()) == nullptr) {
        throw std::runtime_error("no temporary folder");
    }
    m_path = pattern;
}

TemporaryFolder::~TemporaryFolder() {
    std::error_code ignored;
    std::filesystem::remove_all(m_path, ignored);
}

} // namespace nuvat::test
