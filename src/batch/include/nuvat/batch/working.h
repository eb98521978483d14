#pragma once

#include "nuvat/batch/evaluation.h"

namespace nuvat {

/// One step from the raw reading to the reported value.
struct WorkingStep {
    std::string title;              ///< "Blank, mean of H1 and H2"
    std::vector<std::string> lines; ///< "− 0.0625"
    bool isResult = false;          ///< lines are what the step gave (shown bold) rather than what it used
};

/// A criterion as far as it concerns what is selected.
struct WorkingCheck {
    std::string title;
    std::string found;
    Outcome outcome = Outcome::NotApplicable;
};

/// How a number came about.
struct Working {
    std::string title;    ///< "U07"
    std::string subtitle; ///< "Cloudy juice, tank 3 · wells A5, A6"
    std::vector<WorkingStep> steps;
    std::vector<WorkingCheck> checks;
};

/// Working of a replicate group: a sample from its raw readings to the reported value, a standard to its
/// back-calculated error, the blank to what is subtracted. Numbers use '.' and the real minus sign.
Working workingOf(const Batch& batch, const AnalyteEvaluation& evaluation, Assignment group);
/// Working of one place, from where it stands in the file.
Working workingOf(const Batch& batch, const AnalyteEvaluation& evaluation, Place place);
/// Working of places of more than one group: mean, SD and CV of their raw readings.
Working workingOf(const AnalyteEvaluation& evaluation, std::span<const Place> places);

/// "0.9604 µg/L" with the figures its interval supports.
std::string concentrationText(const ReadOff& readOff);
/// "31.6 to 35.3", factor applied, with the figures the interval supports; empty when there is none.
std::string intervalText(double x, double low, double high, double factor = 1);
/// The same where limits may be absent: then empty.
std::string intervalText(double x, const std::optional<double>& low, const std::optional<double>& high);
/// x*factor with the figures the interval supports.
std::string valueText(double x, double low, double high, double factor = 1);
/// The same where limits may be absent: then with four figures.
std::string valueText(double x, const std::optional<double>& low, const std::optional<double>& high);
/// "propagation", "Fieller", "profile likelihood", …
std::string intervalTitle(IntervalMethod method);
/// How a result reads in a table: the number, "< LLOQ (10.3)", "> ULOQ (833)", "below the curve", "not
/// found", "not read", "not defined".
std::string resultText(const SampleResult& result, const Range& range);
/// A percentage of the control, or its inhibition, with the figures that its interval supports.
std::string percentOfControlText(const PercentOfControl& found, double value);
/// "31.6 to 35.3" by Fieller's theorem; "not bounded" where control and blank hardly differ.
std::string percentOfControlInterval(const PercentOfControl& found);
/// "U03 Cider 12: 293 mg/L (288 to 298) from × 1 and × 10", or why nothing was combined.
std::string combinedText(const Batch& batch, const AnalyteEvaluation& evaluation, const CombinedSample& sample);
/// What a class is called: the name that it was given, or by its limits: "up to 5", "5 to 9", "above 9".
/// @pre the rule has limits
std::string className(const DecisionRule& rule, std::size_t number);
/// The class of a sample, or what keeps it from having one: "spans 0.45".
std::string decisionText(const DecisionRule& rule, const SampleDecision& decision);
/// How many samples are in each class, and as the last number how many are not decided.
std::vector<std::size_t> countClasses(const DecisionRule& rule, const std::vector<SampleDecision>& decisions);
/// Whether a result is missing because no replicate has the peak, or none was read yet.
bool isNotFound(const SampleResult& result);
bool isNotRead(const SampleResult& result);
/// One word for the status of a result: "Pass", "Review", "Extrapolated", "Below", "Above", "Not found", "Not read", "No
/// result".
std::string statusWord(const SampleResult& result);
/// How that word is marked: pass, review, or fail where there is no result.
Outcome statusOutcome(const SampleResult& result);

/// "Pass", "Review", "Fail", "None".
std::string outcomeWord(Outcome outcome);

/// The curve solved for concentration, as a formula in plain text.
std::string inverseFormula(Model model);
/// The model as a formula in plain text.
std::string modelFormula(Model model);
/// Name of a model as people say it: "4PL logistic".
std::string modelTitle(Model model);
/// "none", "1/x", "1/x²", …
std::string weightingTitle(Weighting weighting);
/// Both as they stand on screen: "4PL logistic, 1/y²"; point to point and spline have no weights.
std::string fitTitle(const FitOptions& options);
/// What a parameter means: "a, response at zero".
std::string parameterTitle(Model model, std::size_t index);

} // namespace nuvat
