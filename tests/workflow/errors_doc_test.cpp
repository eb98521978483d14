// docs/errors.md lists exactly the codes that the sources use.
#include "support/reference.h"

#include <gtest/gtest.h>
#include <regex>
#include <set>

namespace nuvat {
namespace {

const std::filesystem::path kProject = std::filesystem::path(NUVAT_TEST_DIR).parent_path();

TEST(ErrorCodes, AreAllDocumented) {
    std::set<std::string> used;
    const std::regex inSource(R"re((?:fail\(|Error\{|XmlReader\()\s*"([a-z]+\.[a-z-]+)")re");
    for (const auto& entry : std::filesystem::recursive_directory_iterator(kProject / "src")) {
        if (entry.path().extension() == ".cpp") {
            const std::string text = test::contentOf(entry.path());
            for (std::sregex_iterator it(text.begin(), text.end(), inSource), end; it != end; ++it) {
                used.insert((*it)[1]);
            }
        }
    }
    std::set<std::string> documented;
    const std::string page = test::contentOf(kProject / "docs" / "errors.md");
    const std::regex inPage(R"re(\n\| ([a-z]+\.[a-z-]+) \|)re");
    for (std::sregex_iterator it(page.begin(), page.end(), inPage), end; it != end; ++it) {
        documented.insert((*it)[1]);
    }
    EXPECT_GT(used.size(), 30u);
    for (const std::string& code : used) {
        EXPECT_TRUE(documented.contains(code)) << code << " is not in docs/errors.md";
    }
    for (const std::string& code : documented) {
        EXPECT_TRUE(used.contains(code)) << code << " is in docs/errors.md but nowhere in the sources";
    }
}

} // namespace
} // namespace nuvat
