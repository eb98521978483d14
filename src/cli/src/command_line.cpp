#include "nuvat/cli/command_line.h"

#include "columns.h"
#include "compare_command.h"
#include "detect_command.h"
#include "fit_command.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/workflow/apply_method.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/session.h"
#include "options.h"
#include "solve_command.h"
#include "stats_command.h"
#ifdef NUVAT_WITH_REPORT
#include "nuvat/report/report_file.h"
#endif

#include <algorithm>
#include <set>

namespace nuvat {

namespace {

constexpr int kDone = 0;
constexpr int kNotPossible = 1;
constexpr int kWrongCall = 2;

constexpr const char* kUsage = R"usage(nuvat-cli: what the window computes, from the command line

  nuvat-cli evaluate BATCH [--json]    the whole evaluation as JSON on standard output
  nuvat-cli evaluate BATCH --csv       results as CSV on standard output
  nuvat-cli export BATCH --csv|--json|--xlsx|--pdf [--out FILE]
                                       results, evaluation, workbook or report; the last two need --out
  nuvat-cli report BATCH --out FILE    the report as PDF (when built with Qt)
  nuvat-cli apply METHOD DATA… --out BATCH
                                       a new batch from the method and layout of a batch file and from plate files
  nuvat-cli fit --in DATA.csv [--x COL] [--y COL] [--level COL] [--s COL] [--include COL]
                --model line|line0|line-fixed|quadratic|cubic|loglog|points|spline|4pl|5pl
                [--weight none|1/x|1/x2|1/y|1/y2|1/s2] [--weight-from observed|level|fitted]
                [--fit-to replicates|means] [--hold a=0,d=1] [--fixed X,Y] [--confidence 0.95]
                [--interval propagation|log-propagation|fieller|inversion|profile|bootstrap]
                [--read Y[,Y…] | --read-file F.csv [--read-sample COL]] [--m M]
                [--replicates-average concentration|response] [--diagnostics]
                                       a calibration of one's own columns, as JSON
  nuvat-cli compare (the same input)   models and weightings, ranked, as JSON
  nuvat-cli detect (the same input) [--blanks F.csv] [--low F.csv]
                                       limits of detection and quantitation by every method, as JSON
  nuvat-cli solve --formula "b1/(1+exp(b2-b3*x))" [--response "ln(y)"] --start b1=100,b2=1,b3=0.1
                  [--weight "1/y^2"] --in DATA.csv
                                       a formula of one's own, as JSON
  nuvat-cli stats --in DATA.csv [--y COL] [--group COL] [--alpha 0.05]
                                       statistics of a column, with groups also analysis of variance, as JSON
  nuvat-cli demo --out BATCH           makes the demo batch
  nuvat-cli --help

Exit status: 0 done, 1 the data do not allow it, 2 wrong call.
)usage";

int misused(std::ostream& err, const std::string& why) {
    err << "nuvat-cli: " << why << "\n\n" << kUsage;
    return kWrongCall;
}

int evaluateCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    const std::string kind = arguments.size() > 2 ? arguments[2] : "--json";
    if (arguments.size() < 2 || arguments.size() > 3 || (kind != "--csv" && kind != "--json")) {
        return misused(err, "evaluate takes a batch file and, if you like, --csv or --json.");
    }
    const auto batch = openBatch(arguments[1]);
    if (!batch) {
        return kind == "--json" ? refuse(out, err, batch.error()) : explain(err, batch.error());
    }
    const Evaluation evaluation = evaluate(batch->document->batch());
    out << (kind == "--csv" ? resultsCsv(batch->document->batch(), evaluation)
                            : evaluationJson(batch->document->batch(), evaluation));
    bool hasEveryCurve = true;
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        if (!analyte.fit.isUsable()) {
            err << "nuvat-cli: " << analyte.fit.message << "\n";
            hasEveryCurve = false;
        }
    }
    if (!hasEveryCurve) {
        return kNotPossible;
    }
    return kDone;
}

int reportCommand(const std::vector<std::string>& arguments, std::ostream& err);

int applyCommand(const std::vector<std::string>& arguments, std::ostream& err) {
    constexpr std::size_t kMostFiles = 1000;
    const auto options = Options::parse(arguments, {"--out"}, {}, kMostFiles);
    if (!options) {
        return misused(err, options.error().message);
    }
    if (options->places().size() < 2 || !options->has("--out")) {
        return misused(
            err, "apply takes a batch file with the method, one plate file or more, --out and the batch to make.");
    }
    const std::vector<std::filesystem::path> data(options->places().begin() + 1, options->places().end());
    const auto made = applyMethod(options->places().front(), data, options->text("--out"));
    if (!made) {
        return explain(err, made.error());
    }
    const Evaluation evaluation = evaluate(made->document->batch());
    bool hasEveryCurve = true;
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        hasEveryCurve = hasEveryCurve && analyte.fit.isUsable();
        for (const Problem& problem : analyte.problems) {
            err << "nuvat-cli: " << problem.message << "\n";
        }
    }
    return hasEveryCurve ? kDone : kNotPossible;
}

int exportCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    const std::set<std::string> kinds{"--csv", "--json", "--xlsx", "--pdf"};
    const auto options = Options::parse(arguments, {"--out"}, kinds, 1);
    if (!options) {
        return misused(err, options.error().message);
    }
    const auto asked = std::count_if(kinds.begin(), kinds.end(), [&](const auto& kind) { return options->has(kind); });
    if (options->places().size() != 1 || asked != 1) {
        return misused(err, "export takes a batch file and one of --csv, --json, --xlsx, --pdf.");
    }
    const bool needsFile = options->has("--xlsx") || options->has("--pdf");
    if (needsFile && !options->has("--out")) {
        return misused(err, "export needs --out and the file to write for --xlsx and --pdf.");
    }
    const auto batch = openBatch(options->places().front());
    if (!batch) {
        return explain(err, batch.error());
    }
    const Evaluation evaluation = evaluate(batch->document->batch());
    Result<void> written;
    if (options->has("--xlsx")) {
        written = writeXlsx(batch->document->batch(), evaluation, options->text("--out"));
    } else if (options->has("--pdf")) {
        return reportCommand({"report", options->places().front(), "--out", options->text("--out")}, err);
    } else {
        const std::string text = options->has("--csv") ? resultsCsv(batch->document->batch(), evaluation)
                                                       : evaluationJson(batch->document->batch(), evaluation);
        if (options->has("--out")) {
            written = writeText(options->text("--out"), text);
        } else {
            out << text;
        }
    }
    return written ? kDone : explain(err, written.error());
}

int demoCommand(const std::vector<std::string>& arguments, std::ostream& err) {
    if (arguments.size() != 3 || arguments[1] != "--out") {
        return misused(err, "demo takes --out and the file to make.");
    }
    const auto made = demoBatch(arguments[2]);
    return made ? kDone : explain(err, made.error());
}

int reportCommand([[maybe_unused]] const std::vector<std::string>& arguments, std::ostream& err) {
#ifdef NUVAT_WITH_REPORT
    if (arguments.size() != 4 || arguments[2] != "--out") {
        return misused(err, "report takes a batch file, --out and the PDF to write.");
    }
    const auto batch = openBatch(arguments[1]);
    if (!batch) {
        return explain(err, batch.error());
    }
    const auto written = writeReportPdf(*batch->document, arguments[3], systemMillis());
    return written ? kDone : explain(err, written.error());
#else
    return misused(err, "this build has no reports (it was made without Qt).");
#endif
}

} // namespace

int runCommandLine(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    if (arguments.empty()) {
        return misused(err, "say what to do.");
    }
    if (arguments[0] == "--help" || arguments[0] == "-h") {
        out << kUsage;
        return kDone;
    }
    if (arguments[0] == "evaluate") {
        return evaluateCommand(arguments, out, err);
    }
    if (arguments[0] == "fit") {
        return fitCommand(arguments, out, err);
    }
    if (arguments[0] == "stats") {
        return statsCommand(arguments, out, err);
    }
    if (arguments[0] == "compare") {
        return compareCommand(arguments, out, err);
    }
    if (arguments[0] == "detect") {
        return detectCommand(arguments, out, err);
    }
    if (arguments[0] == "solve") {
        return solveCommand(arguments, out, err);
    }
    if (arguments[0] == "apply") {
        return applyCommand(arguments, err);
    }
    if (arguments[0] == "export") {
        return exportCommand(arguments, out, err);
    }
    if (arguments[0] == "demo") {
        return demoCommand(arguments, err);
    }
    if (arguments[0] == "report") {
        return reportCommand(arguments, err);
    }
    return misused(err, "there is no command \"" + arguments[0] + "\".");
}

} // namespace nuvat
