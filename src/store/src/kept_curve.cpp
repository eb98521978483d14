#include "nuvat/store/kept_curve.h"

#include "json_values.h"
#include "known_names.h"
#include "nuvat/core/base/replacement_file.h"

#include <fstream>
#include <iterator>

namespace nuvat {

namespace {

using Json = nlohmann::json;

Json fitJson(const FitOptions& fit) {
    return {{"model", name(fit.model)},
            {"weighting", name(fit.weighting)},
            {"weightFrom", name(fit.weightFrom)},
            {"fitTo", name(fit.fitTo)},
            {"heldA", optionalJson(fit.heldA)},
            {"heldD", optionalJson(fit.heldD)},
            {"fixedX", fit.fixedX},
            {"fixedY", fit.fixedY},
            {"isSplineInLogX", fit.isSplineInLogX},
            {"weightFloor", optionalJson(fit.weightFloor)},
            {"theta", optionalJson(fit.theta)}};
}

FitOptions fitFrom(const Json& json) {
    FitOptions out;
    out.model = fromKnownName<Model>(json.at("model").get<std::string>());
    out.weighting = fromKnownName<Weighting>(json.at("weighting").get<std::string>());
    out.weightFrom = fromKnownName<WeightSource>(json.at("weightFrom").get<std::string>());
    out.fitTo = fromKnownName<FitTo>(json.at("fitTo").get<std::string>());
    out.heldA = optionalFrom(json.at("heldA"));
    out.heldD = optionalFrom(json.at("heldD"));
    out.fixedX = json.at("fixedX");
    out.fixedY = json.at("fixedY");
    out.isSplineInLogX = json.at("isSplineInLogX");
    out.weightFloor = optionalFrom(json.at("weightFloor"));
    out.theta = optionalFrom(json.at("theta"));
    return out;
}

KeptCurve curveFrom(const Json& json) {
    KeptCurve out;
    out.name = json.at("name");
    out.batch = json.at("batch");
    out.method = json.at("method");
    out.revision = json.at("revision");
    out.unit = json.at("unit");
    out.keptMillis = json.at("keptMillis");
    out.validDays = optionalFrom(json.at("validDays"));
    out.fit = fitFrom(json.at("fit"));
    out.x = json.at("x").get<std::vector<double>>();
    out.y = json.at("y").get<std::vector<double>>();
    out.level = json.at("level").get<std::vector<int>>();
    out.blankSd = json.at("blankSd");
    out.blankDf = json.at("blankDf");
    out.offset = json.at("offset");
    out.lloq = optionalFrom(json.at("lloq"));
    out.uloq = optionalFrom(json.at("uloq"));
    if (out.x.size() != out.y.size() || out.x.size() != out.level.size()) {
        throw std::runtime_error("its points are not complete");
    }
    return out;
}

} // namespace

std::string keptCurveText(const KeptCurve& curve) {
    const Json out{{"kind", "nuvat-kept-curve"},
                   {"version", 1},
                   {"name", curve.name},
                   {"batch", curve.batch},
                   {"method", curve.method},
                   {"revision", curve.revision},
                   {"unit", curve.unit},
                   {"keptMillis", curve.keptMillis},
                   {"validDays", optionalJson(curve.validDays)},
                   {"fit", fitJson(curve.fit)},
                   {"x", curve.x},
                   {"y", curve.y},
                   {"level", curve.level},
                   {"blankSd", curve.blankSd},
                   {"blankDf", curve.blankDf},
                   {"offset", curve.offset},
                   {"lloq", optionalJson(curve.lloq)},
                   {"uloq", optionalJson(curve.uloq)}};
    return textOf(out);
}

Result<KeptCurve> keptCurveFromText(const std::string& text) {
    try {
        return curveFrom(Json::parse(text));
    } catch (const std::exception& error) {
        return fail("curve.not-read", std::string("The kept curve cannot be read: ") + error.what() + ".",
                    "Keep the curve again in the batch that it comes from.");
    }
}

Result<void> writeKeptCurve(const std::filesystem::path& path, const KeptCurve& curve) {
    return replaceFile(path, keptCurveText(curve) + "\n");
}

Result<KeptCurve> readKeptCurve(const std::filesystem::path& path) {
    std::ifstream stream(path, std::ios::binary);
    const std::string text{std::istreambuf_iterator<char>(stream), {}};
    if (!stream || text.empty()) {
        return fail("curve.not-read", path.string() + " cannot be read.", "Choose another file.");
    }
    return keptCurveFromText(text);
}

} // namespace nuvat
