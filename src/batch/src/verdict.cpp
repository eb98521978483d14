#include "nuvat/batch/verdict.h"

#include "criteria.h"

namespace nuvat {

namespace {

template<class Visit> void forEachCriterion(const Batch& batch, const Evaluation& evaluation, const Visit& visit) {
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        const std::string owner = evaluation.analytes.size() > 1 ? curveName(batch, analyte) + ", " : "";
        for (const CriterionResult& criterion : analyte.criteria) {
            visit(criterion, owner + criterion.title);
        }
    }
    for (const CriterionResult& criterion : evaluation.criteria) {
        visit(criterion, "batch, " + criterion.title);
    }
}

std::string namesOf(const Batch& batch, const Evaluation& evaluation, Outcome outcome) {
    std::vector<std::string> names;
    forEachCriterion(batch, evaluation, [&](const CriterionResult& criterion, const std::string& name) {
        if (criterion.outcome == outcome && !criterion.isOverridden()) {
            names.push_back(name);
        }
    });
    return joined(names);
}

std::string counted(std::size_t n, const char* one, const char* many) {
    return std::to_string(n) + " " + (n == 1 ? one : many);
}

/// Analytes that something keeps from being judged.
std::string withoutCurve(const Batch& batch, const Evaluation& evaluation) {
    std::vector<std::string> names;
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        if (!analyte.fit.isUsable()) {
            names.push_back(curveName(batch, analyte).empty() ? "the analyte" : curveName(batch, analyte));
        }
    }
    return joined(names);
}

} // namespace

CriteriaCounts countCriteria(const Evaluation& evaluation) {
    return {evaluation.countCriteria(Outcome::Pass), evaluation.countCriteria(Outcome::Review),
            evaluation.countCriteria(Outcome::Fail), evaluation.countOverridden()};
}

std::string verdictTitle(Outcome verdict) {
    switch (verdict) {
    case Outcome::Pass:
        return "Accepted";
    case Outcome::Review:
        return "Review before release";
    case Outcome::Fail:
        return "Not accepted";
    case Outcome::NotApplicable:
        break;
    }
    return "Nothing to check yet";
}

std::string verdictSentence(const Batch& batch, const Evaluation& evaluation) {
    const CriteriaCounts counts = countCriteria(evaluation);
    std::string out = verdictTitle(evaluation.verdict) + ": ";
    const std::string missing = withoutCurve(batch, evaluation);
    switch (evaluation.verdict) {
    case Outcome::NotApplicable:
        return "No verdict: nothing could be checked.";
    case Outcome::Pass:
        out += counts.overridden > 0 ? counted(counts.met, "criterion is met", "criteria are met")
                                     : "every criterion is met";
        break;
    case Outcome::Review:
        if (counts.review > 0) {
            out += counted(counts.review, "criterion asks", "criteria ask") + " for a look (" +
                   namesOf(batch, evaluation, Outcome::Review) + "), none fails";
        } else {
            out += "there is no curve for " + missing;
        }
        break;
    case Outcome::Fail:
        if (counts.failed > 0) {
            out += counted(counts.failed, "criterion fails", "criteria fail") + " (" +
                   namesOf(batch, evaluation, Outcome::Fail) + ")";
        } else {
            out += "there is no curve for " + missing + ", which no override can replace";
        }
        break;
    }
    if (counts.overridden > 0) {
        out += "; " + counted(counts.overridden, "is overridden with a reason", "are overridden with a reason");
    }
    return out + ".";
}

} // namespace nuvat
