#include "nuvat/cli/command_line.h"

#include "addition_command.h"
#include "columns.h"
#include "compare_command.h"
#include "convert_command.h"
#include "detect_command.h"
#include "fit_command.h"
#include "help.h"
#include "helper_process.h"
#include "line_command.h"
#include "normalise_command.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/batch/run_commands.h"
#include "nuvat/batch/run_list.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/formats/any_file.h"
#include "nuvat/store/method_file.h"
#include "nuvat/workflow/apply_method.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/layout_file.h"
#include "nuvat/workflow/list_files.h"
#include "nuvat/workflow/session.h"
#include "options.h"
#include "peaks_command.h"
#include "plan_command.h"
#include "potency_command.h"
#include "quantify_command.h"
#include "read_command.h"
#include "sample_commands.h"
#include "solve_command.h"
#include "stats_command.h"

#include <algorithm>
#include <array>
#include <exception>
#include <set>

namespace nuvat {

namespace {

constexpr int kDone = 0;
constexpr int kNotPossible = 1;
constexpr int kWrongCall = 2;

int misused(std::ostream& err, const std::string& why, std::string_view help) {
    err << "nuvat-cli: " << why << "\n\n" << help;
    return kWrongCall;
}

void tell(std::ostream& err, const std::vector<std::string>& notes) {
    for (const std::string& note : notes) {
        err << "nuvat-cli: " << forTerminal(note) << "\n";
    }
}

/// An output must not take the place of what it is made from, unless that is asked for.
Result<void> spareInputs(const Options& options, const std::vector<std::string>& inputs) {
    const std::filesystem::path out = options.text("--out");
    for (const std::string& input : inputs) {
        std::error_code ignored;
        if (!options.has("--force") && std::filesystem::equivalent(out, input, ignored)) {
            return fail("cli.output-is-input", out.string() + " is one of the inputs; it was left as it is.",
                        "Choose another name, or add --force to replace it.");
        }
    }
    return {};
}

/// Whether an analyte has neither a curve nor results that need none, as shares of an area do.
bool lacksCurve(const AnalyteEvaluation& analyte) {
    return !analyte.fit.isUsable() && !analyte.isOnlyInternal &&
           std::none_of(analyte.results.begin(), analyte.results.end(),
                        [](const SampleResult& one) { return one.result.has_value(); });
}

/// The verdict of a batch without a curve is one that scripts have to notice.
int statusOf(const Evaluation& evaluation, std::ostream& err) {
    int status = kDone;
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        if (lacksCurve(analyte)) {
            err << "nuvat-cli: " << analyte.fit.message << "\n";
            status = kNotPossible;
        }
    }
    return status;
}

int evaluateFile(const std::string& path, bool asCsv, std::ostream& out, std::ostream& err) {
    const auto batch = readBatchFile(path);
    if (!batch) {
        return asCsv ? explain(err, batch.error()) : refuse(out, err, batch.error());
    }
    tell(err, batch->notes);
    const Evaluation evaluation = evaluate(batch->document->batch());
    out << (asCsv ? resultsCsv(batch->document->batch(), evaluation)
                  : evaluationJson(batch->document->batch(), evaluation));
    return statusOf(evaluation, err);
}

/// One file gives its evaluation alone, several an array of them in their order; the status is the worst.
int evaluateCommand(const Options& options, std::ostream& out, std::ostream& err) {
    const auto& files = options.places();
    const bool asCsv = options.has("--csv");
    if (files.empty() || (asCsv && (options.has("--json") || files.size() > 1))) {
        return misused(err, "evaluate takes batch files, or one and --csv.", helpOf("evaluate"));
    }
    if (files.size() == 1) {
        return evaluateFile(files.front(), asCsv, out, err);
    }
    int status = kDone;
    for (std::size_t i = 0; i < files.size(); ++i) {
        out << (i == 0 ? "[\n" : ",\n");
        status = std::max(status, evaluateFile(files[i], false, out, err));
    }
    out << "]\n";
    return status;
}

int applyCommand(const Options& options, std::ostream&, std::ostream& err) {
    if (options.places().size() < 2 || !options.has("--out")) {
        return misused(err,
                       "apply takes a batch file with the method, one plate file or more, --out and the batch to make.",
                       helpOf("apply"));
    }
    if (const auto spared = spareInputs(options, options.places()); !spared) {
        return explain(err, spared.error());
    }
    const std::vector<std::filesystem::path> data(options.places().begin() + 1, options.places().end());
    const auto made = applyMethod(options.places().front(), data, options.text("--out"));
    if (!made) {
        return explain(err, made.error());
    }
    tell(err, made->notes);
    const Evaluation evaluation = evaluate(made->document->batch());
    bool hasEveryCurve = true;
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        hasEveryCurve = hasEveryCurve && !lacksCurve(analyte);
        for (const Problem& problem : analyte.problems) {
            err << "nuvat-cli: " << forTerminal(problem.message) << "\n";
        }
    }
    return hasEveryCurve ? kDone : kNotPossible;
}

int writeReport(const std::string& batch, const std::string& pdf, std::ostream& err) {
    const auto written = runBeside("nuvat-pdf", {batch, pdf}, "The report");
    return written ? *written : explain(err, written.error());
}

int exportCommand(const Options& options, std::ostream& out, std::ostream& err) {
    const std::vector<std::string> kinds{"--csv", "--json", "--xlsx", "--pdf", "--layout", "--method"};
    const auto asked = std::count_if(kinds.begin(), kinds.end(), [&](const auto& kind) { return options.has(kind); });
    if (options.places().size() != 1 || asked != 1) {
        return misused(err, "export takes a batch file and one of --csv, --json, --xlsx, --pdf, --layout, --method.",
                       helpOf("export"));
    }
    if ((options.has("--xlsx") || options.has("--pdf")) && !options.has("--out")) {
        return misused(err, "export needs --out and the file to write for --xlsx and --pdf.", helpOf("export"));
    }
    if (const auto spared = spareInputs(options, options.places()); !spared) {
        return explain(err, spared.error());
    }
    const auto opened = readBatchFile(options.places().front());
    if (!opened) {
        return explain(err, opened.error());
    }
    tell(err, opened->notes);
    const Batch& batch = opened->document->batch();
    if (options.has("--pdf")) {
        return writeReport(options.places().front(), options.text("--out"), err);
    }
    if (options.has("--xlsx")) {
        const auto written = writeXlsx(batch, evaluate(batch), options.text("--out"));
        return written ? kDone : explain(err, written.error());
    }
    const std::string text = options.has("--layout")   ? layoutCsv(batch)
                             : options.has("--method") ? methodText(methodOf(batch))
                             : options.has("--csv")    ? resultsCsv(batch, evaluate(batch))
                                                       : evaluationJson(batch, evaluate(batch));
    if (!options.has("--out")) {
        out << text;
        return kDone;
    }
    const auto written = writeText(options.text("--out"), text);
    return written ? kDone : explain(err, written.error());
}

int demoCommand(const Options& options, std::ostream&, std::ostream& err) {
    if (!options.places().empty() || !options.has("--out")) {
        return misused(err, "demo takes --out and the file to make.", helpOf("demo"));
    }
    const auto made = demoBatch(options.has("--name") ? options.text("--name") : "patulin", options.text("--out"));
    return made ? kDone : explain(err, made.error());
}

int reportCommand(const Options& options, std::ostream&, std::ostream& err) {
    if (options.places().size() != 1 || !options.has("--out")) {
        return misused(err, "report takes a batch file, --out and the PDF to write.", helpOf("report"));
    }
    if (const auto spared = spareInputs(options, options.places()); !spared) {
        return explain(err, spared.error());
    }
    const auto batch = readBatchFile(options.places().front());
    if (!batch) {
        return explain(err, batch.error());
    }
    tell(err, batch->notes);
    return writeReport(options.places().front(), options.text("--out"), err);
}

/// Plans runs in a batch file. It is edited as the window edits it, so it can be undone there.
int listCommand(const Options& options, std::ostream& out, std::ostream& err) {
    if (options.places().size() != 1 || !options.has("--in")) {
        return misused(err, "list takes a batch file, --in and the list of runs.", helpOf("list"));
    }
    NoProgress progress;
    const std::filesystem::path file = options.text("--in");
    const auto bytes = readFileBytes(file, progress);
    if (!bytes) {
        return explain(err, bytes.error());
    }
    auto opened = openBatch(options.places().front());
    if (!opened) {
        return explain(err, opened.error());
    }
    tell(err, opened->notes);
    Document& document = *opened->document;
    const auto runs = runsFromText(*bytes, file.filename().string(), document.batch().method.nameRules);
    if (!runs) {
        return explain(err, runs.error());
    }
    if (const auto done = document.apply(planRuns(document.batch(), *runs)); !done) {
        return explain(err, done.error());
    }
    for (const auto& [number, carrier] : document.batch().carriers) {
        for (const std::string& problem : listProblems(document.batch(), number)) {
            err << "nuvat-cli: " << forTerminal(problem) << "\n";
        }
    }
    out << runs->size() << " runs planned\n";
    return kDone;
}

int measureCommand(const Options& options, std::ostream&, std::ostream& err) {
    const std::string with = options.has("--with") ? options.text("--with") : "";
    const std::size_t colon = with.rfind(':');
    const auto port = colon == std::string::npos ? std::nullopt : parseNumber(with.substr(colon + 1));
    constexpr double kHighestPort = 65535;
    if (options.places().size() != 1 || colon == 0 || !port || *port < 1 || *port > kHighestPort) {
        return misused(err, "measure takes a batch file and --with HOST:PORT.", helpOf("measure"));
    }
    std::vector<std::string> arguments{options.places().front(), with.substr(0, colon), with.substr(colon + 1)};
    if (options.has("--minutes")) {
        const auto minutes = parseNumber(options.text("--minutes"));
        constexpr double kSecondsPerMinute = 60;
        if (!minutes || *minutes <= 0) {
            return misused(err, "--minutes takes the length of a run, above 0.", helpOf("measure"));
        }
        arguments.push_back(formatNumber(kSecondsPerMinute * *minutes));
    }
    const auto done = runBeside("nuvat-measure", arguments, "The list");
    return done ? *done : explain(err, done.error());
}

/// A command that works on batch files.
struct BatchCommand {
    const char* name;
    std::set<std::string> withValue, flags;
    std::size_t places;
    int (*run)(const Options&, std::ostream&, std::ostream&);
};

const std::vector<BatchCommand>& batchCommands() {
    constexpr std::size_t kMostFiles = 100'000;
    static const std::vector<BatchCommand> commands{
        {"evaluate", {}, {"--csv", "--json"}, kMostFiles, evaluateCommand},
        {"apply", {"--out"}, {"--force"}, kMostFiles, applyCommand},
        {"export",
         {"--out"},
         {"--csv", "--json", "--xlsx", "--pdf", "--layout", "--method", "--force"},
         1,
         exportCommand},
        {"demo", {"--out", "--name"}, {}, 0, demoCommand},
        {"report", {"--out"}, {"--force"}, 1, reportCommand},
        {"list", {"--in"}, {}, 1, listCommand},
        {"measure", {"--with", "--minutes"}, {}, 1, measureCommand},
    };
    return commands;
}

using ColumnCommand = int (*)(const std::vector<std::string>&, std::ostream&, std::ostream&);
constexpr std::array<std::pair<std::string_view, ColumnCommand>, 19> kColumnCommands{
    {{"fit", fitCommand},
     {"peaks", peaksCommand},
     {"line", lineCommand},
     {"addition", additionCommand},
     {"normalise", normaliseCommand},
     {"convert", convertCommand},
     {"potency", potencyCommand},
     {"combine", combineCommand},
     {"decide", decideCommand},
     {"control-percent", controlPercentCommand},
     {"best", bestCommand},
     {"plan", planCommand},
     {"quantify", quantifyCommand},
     {"polish", polishCommand},
     {"stats", statsCommand},
     {"compare", compareCommand},
     {"detect", detectCommand},
     {"solve", solveCommand},
     {"read", readCommand}}};

int dispatch(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    if (arguments.empty()) {
        return misused(err, "say what to do.", overview());
    }
    const std::string& command = arguments.front();
    const auto asksForHelp = [](const std::string& word) { return word == "--help" || word == "-h"; };
    if (asksForHelp(command) || command == "help") {
        const std::string_view help = arguments.size() > 1 ? helpOf(arguments[1]) : std::string_view();
        out << (help.empty() ? overview() : std::string(help));
        return kDone;
    }
    if (!helpOf(command).empty() && std::any_of(arguments.begin() + 1, arguments.end(), asksForHelp)) {
        out << helpOf(command);
        return kDone;
    }
    for (const auto& [name, run] : kColumnCommands) {
        if (name == command) {
            return run(arguments, out, err);
        }
    }
    for (const BatchCommand& one : batchCommands()) {
        if (one.name == command) {
            const auto options = Options::parse(arguments, one.withValue, one.flags, one.places);
            return options ? one.run(*options, out, err) : misused(err, options.error().message, helpOf(command));
        }
    }
    return misused(err, "there is no command \"" + command + "\".", overview());
}

} // namespace

int runCommandLine(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    int status = kDone;
    try {
        status = dispatch(arguments, out, err);
    } catch (const std::bad_alloc&) {
        return explain(err, Error{"cli.no-memory", "There is not enough memory for this.", "Use a smaller file."});
    } catch (const std::exception& e) {
        return explain(err, Error{"cli.failed", "This could not be computed (" + std::string(e.what()) + ").", ""});
    }
    out.flush();
    if (!out) {
        return explain(err, Error{"cli.output-failed", "Standard output cannot be written; the result is not whole.",
                                  "Check that the disk has room."});
    }
    return status;
}

} // namespace nuvat
