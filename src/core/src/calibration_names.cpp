// What models, weightings and the like are called in files.
#include "model_fits.h"
#include "nuvat/core/fit/calibration.h"

#include <array>
#include <stdexcept>
#include <utility>

namespace nuvat {

namespace {

template<class Value, std::size_t N> using NameTable = std::array<std::pair<Value, std::string_view>, N>;

constexpr NameTable<Model, 10> kModelNames{{{Model::Line, "line"},
                                            {Model::LineThroughOrigin, "line0"},
                                            {Model::LineFixedPoint, "line-fixed"},
                                            {Model::Quadratic, "quadratic"},
                                            {Model::Cubic, "cubic"},
                                            {Model::LogLog, "loglog"},
                                            {Model::PointToPoint, "points"},
                                            {Model::Spline, "spline"},
                                            {Model::Logistic4, "4pl"},
                                            {Model::Logistic5, "5pl"}}};
constexpr NameTable<Weighting, 7> kWeightingNames{{{Weighting::None, "none"},
                                                   {Weighting::InverseX, "1/x"},
                                                   {Weighting::InverseX2, "1/x2"},
                                                   {Weighting::InverseY, "1/y"},
                                                   {Weighting::InverseY2, "1/y2"},
                                                   {Weighting::InverseS2, "1/s2"},
                                                   {Weighting::Variance, "variance"}}};
constexpr NameTable<FitStatus, 4> kStatusNames{{{FitStatus::Ok, "ok"},
                                                {FitStatus::NotEnoughData, "not-enough-data"},
                                                {FitStatus::NotDetermined, "not-determined"},
                                                {FitStatus::NotConverged, "not-converged"}}};
constexpr NameTable<WeightSource, 3> kWeightSourceNames{
    {{WeightSource::Observed, "observed"}, {WeightSource::LevelMean, "level"}, {WeightSource::Fitted, "fitted"}}};
constexpr NameTable<FitTo, 2> kFitToNames{{{FitTo::Replicates, "replicates"}, {FitTo::Means, "means"}}};

template<class Value, std::size_t N> std::string_view nameIn(const NameTable<Value, N>& table, Value key) {
    for (const auto& [value, text] : table) {
        if (value == key) {
            return text;
        }
    }
    throw std::invalid_argument("name: not one of the enumerators");
}

template<class Value, std::size_t N>
std::optional<Value> valueIn(const NameTable<Value, N>& table, std::string_view text) {
    for (const auto& [value, nameInTable] : table) {
        if (nameInTable == text) {
            return value;
        }
    }
    return std::nullopt;
}

} // namespace

std::string_view name(Model model) {
    return nameIn(kModelNames, model);
}
std::string_view name(Weighting weighting) {
    return nameIn(kWeightingNames, weighting);
}
std::string_view name(FitStatus status) {
    return nameIn(kStatusNames, status);
}
std::string_view name(WeightSource from) {
    return nameIn(kWeightSourceNames, from);
}
std::string_view name(FitTo fitTo) {
    return nameIn(kFitToNames, fitTo);
}
std::optional<Model> modelFromName(std::string_view text) {
    return valueIn(kModelNames, text);
}
std::optional<Weighting> weightingFromName(std::string_view text) {
    return valueIn(kWeightingNames, text);
}
std::optional<WeightSource> weightSourceFromName(std::string_view text) {
    return valueIn(kWeightSourceNames, text);
}
std::optional<FitTo> fitToFromName(std::string_view text) {
    return valueIn(kFitToNames, text);
}

std::vector<std::string> namesOfParameters(Model model) {
    switch (model) {
    case Model::Line:
    case Model::LineFixedPoint:
    case Model::LogLog:
        return {"a", "b"};
    case Model::LineThroughOrigin:
        return {"b"};
    case Model::Quadratic:
        return {"b0", "b1", "b2"};
    case Model::Cubic:
        return {"b0", "b1", "b2", "b3"};
    case Model::PointToPoint:
    case Model::Spline:
        return {};
    case Model::Logistic4:
        return {"a", "b", "c", "d"};
    case Model::Logistic5:
        return {"a", "b", "c", "d", "g"};
    }
    throw std::invalid_argument("namesOfParameters: not a model");
}

std::size_t parameterCount(Model model) {
    return namesOfParameters(model).size();
}
bool isLogistic(Model model) {
    return model == Model::Logistic4 || model == Model::Logistic5;
}
bool isStraightLine(Model model) {
    return model == Model::Line || model == Model::LineThroughOrigin || model == Model::LineFixedPoint;
}
bool isInterpolation(Model model) {
    return model == Model::PointToPoint || model == Model::Spline;
}

} // namespace nuvat
