// What nuvat-cli prints keeps to docs/formats/cli-json.schema.json. The validator knows the keywords that the schema
// uses.
#include "nuvat/cli/command_line.h"
#include "support/reference.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <sstream>

namespace nuvat {
namespace {

using nlohmann::json;

class Schema {
public:
    Schema() {
        const auto path =
            std::filesystem::path(NUVAT_TEST_DIR).parent_path() / "docs" / "formats" / "cli-json.schema.json";
        m_schema = json::parse(test::contentOf(path));
    }
    /// Every way in which a document misses a definition, with its place.
    std::vector<std::string> misses(const std::string& definition, const json& document) const {
        std::vector<std::string> out;
        check(m_schema.at("$defs").at(definition), document, definition, out);
        return out;
    }

private:
    static bool isOfType(const json& document, const std::string& type) {
        return (type == "object" && document.is_object()) || (type == "array" && document.is_array()) ||
               (type == "string" && document.is_string()) || (type == "number" && document.is_number()) ||
               (type == "integer" && document.is_number_integer()) || (type == "boolean" && document.is_boolean()) ||
               (type == "null" && document.is_null());
    }
    void check(const json& rule, const json& document, const std::string& where, std::vector<std::string>& out) const {
        if (rule.contains("$ref")) {
            const std::string name = rule.at("$ref").get<std::string>().substr(std::string("#/$defs/").size());
            check(m_schema.at("$defs").at(name), document, where, out);
        }
        if (rule.contains("allOf")) {
            for (const json& one : rule.at("allOf")) {
                check(one, document, where, out);
            }
        }
        if (rule.contains("type")) {
            const json types = rule.at("type").is_array() ? rule.at("type") : json::array({rule.at("type")});
            const bool isAny = std::any_of(types.begin(), types.end(), [&](const json& type) {
                return isOfType(document, type.get<std::string>());
            });
            if (!isAny) {
                out.push_back(where + " is " + document.dump().substr(0, 40) + ", not " + types.dump());
            }
        }
        if (rule.contains("enum")) {
            const json& allowed = rule.at("enum");
            if (std::find(allowed.begin(), allowed.end(), document) == allowed.end()) {
                out.push_back(where + " is " + document.dump() + ", none of " + allowed.dump());
            }
        }
        if (document.is_object()) {
            for (const json& key : rule.value("required", json::array())) {
                if (!document.contains(key.get<std::string>())) {
                    out.push_back(where + " has no " + key.get<std::string>());
                }
            }
            for (const auto& [key, value] : document.items()) {
                if (rule.contains("properties") && rule.at("properties").contains(key)) {
                    check(rule.at("properties").at(key), value, where + "." + key, out);
                } else if (rule.contains("additionalProperties")) {
                    check(rule.at("additionalProperties"), value, where + "." + key, out);
                }
            }
        }
        if (document.is_array() && rule.contains("items")) {
            for (std::size_t i = 0; i < document.size(); ++i) {
                check(rule.at("items"), document[i], where + "[" + std::to_string(i) + "]", out);
            }
        }
    }
    json m_schema;
};

void expectKeepsTo(const std::string& definition, const std::vector<std::string>& arguments) {
    static const Schema schema;
    std::ostringstream out;
    std::ostringstream err;
    runCommandLine(arguments, out, err);
    const json document = json::parse(out.str());
    for (const std::string& miss : schema.misses(definition, document)) {
        ADD_FAILURE() << arguments.front() << ": " << miss;
    }
}

std::string file(const char* name) {
    return test::referenceFile(name).string();
}

TEST(CliSchema, FitKeepsToIt) {
    for (const char* model :
         {"line", "line0", "line-fixed", "quadratic", "cubic", "loglog", "points", "spline", "4pl", "5pl"}) {
        expectKeepsTo("fit", {"fit", "--in", file("dnase_run01.csv"), "--model", model, "--weight", "1/y", "--read",
                              "0.01,0.5,9", "--replicates-average", "response", "--diagnostics", "--factor", "5"});
    }
    // Also where there are no estimates.
    expectKeepsTo("fit", {"fit", "--in", file("dnase_run04.csv"), "--model", "5pl"});
}

TEST(CliSchema, TheOthersKeepToIt) {
    expectKeepsTo("compare", {"compare", "--in", file("dnase_run01.csv")});
    expectKeepsTo("detect",
                  {"detect", "--in", file("detection_ten_levels.csv"), "--blanks",
                   file("detection_ten_levels_blanks.csv"), "--low", file("detection_ten_levels_low_samples.csv")});
    expectKeepsTo("detect", {"detect", "--in", file("iso11843_rising_sd.csv")});
    expectKeepsTo("detect", {"detect", "--in", file("dnase_run01.csv"), "--model", "4pl"});
    expectKeepsTo("solve", {"solve", "--formula", "b1*(1-exp(-b2*x))", "--start", "b1=500,b2=0.0001", "--in",
                            file("nonlinear_Misra1a.csv")});
    expectKeepsTo("solve",
                  {"solve", "--formula", "(a+b)*x", "--start", "a=1,b=1", "--in", file("nonlinear_Misra1a.csv")});
    expectKeepsTo("stats", {"stats", "--in", file("homogeneity_low_high.csv"), "--group", "group"});
    expectKeepsTo("stats", {"stats", "--in", file("outlier_four_values.csv")});
}

TEST(CliSchema, SoDoesWhatCannotBeRead) {
    for (const char* command : {"fit", "compare", "detect", "stats"}) {
        expectKeepsTo("error", {command, "--in", file("none.csv")});
    }
    expectKeepsTo("error", {"solve", "--formula", "a*x", "--start", "a=1", "--in", file("none.csv")});
    expectKeepsTo("error", {"evaluate", file("none.nuvat")});
}

TEST(CliSchema, TheValidatorFindsWhatIsWrong) {
    const Schema schema;
    EXPECT_FALSE(schema.misses("fit", json::object()).empty());
    EXPECT_FALSE(
        schema
            .misses("solve",
                    {{"status", "fine"}, {"message", ""}, {"parameterOrder", json::array()}, {"n", 1}, {"p", 1}})
            .empty());
    EXPECT_FALSE(schema.misses("stats", {{"n", "three"}}).empty());
}

} // namespace
} // namespace nuvat
