#include "nuvat/workflow/export.h"

#include "nuvat/batch/result_table.h"
#include "nuvat/batch/verdict.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/replacement_file.h"

#include <algorithm>
#include <iterator>
#include <memory>
#include <set>
#include <stdexcept>
#include <xlsxwriter.h>

namespace nuvat {

namespace {

/// Names of sheets: at most 31 UTF-16 units, none of []:*?/\' and no control characters, and no two that differ in case
/// alone.
class SheetNames {
public:
    std::string next(const std::string& what, const std::string& analyte, bool hasSeveral) {
        std::string wanted = hasSeveral ? what + " " + analyte : what;
        for (char& c : wanted) {
            if (static_cast<unsigned char>(c) < ' ' || c == '\x7f' ||
                std::string_view("[]:*?/\\'").find(c) != std::string_view::npos) {
                c = ' ';
            }
        }
        std::string name = cut(wanted, kMostUnits);
        for (int n = 2; !m_used.insert(folded(name)).second; ++n) {
            const std::string number = " " + std::to_string(n);
            name = cut(wanted, kMostUnits - number.size()) + number;
        }
        return name;
    }

private:
    static constexpr std::size_t kMostUnits = 31;

    /// Whole characters only. Bytes that are not UTF-8 become question marks.
    static std::string cut(const std::string& text, std::size_t mostUnits) {
        std::string out;
        std::size_t units = 0;
        for (std::size_t i = 0; i < text.size();) {
            const auto lead = static_cast<unsigned char>(text[i]);
            const std::size_t size = lead < 0x80 ? 1 : lead >= 0xF0 ? 4 : lead >= 0xE0 ? 3 : lead >= 0xC2 ? 2 : 0;
            const std::string_view rest =
                std::string_view(text).substr(i + (size > 0 ? 1 : 0), size > 0 ? size - 1 : 0);
            const bool isWhole = size > 0 && rest.size() == size - 1 &&
                                 std::all_of(rest.begin(), rest.end(),
                                             [](char c) { return (static_cast<unsigned char>(c) & 0xC0u) == 0x80u; });
            const std::size_t takes = size == 4 ? 2 : 1; // a surrogate pair
            if (units + takes > mostUnits) {
                break;
            }
            out += isWhole ? text.substr(i, size) : "?";
            units += takes;
            i += isWhole ? size : 1;
        }
        return out;
    }

    /// ASCII without its case; other letters are left apart, and so one too many is renamed at the worst.
    static std::string folded(const std::string& text) {
        std::string out = text;
        for (char& c : out) {
            c = c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
        }
        return out;
    }

    std::set<std::string> m_used{"checks", "history"}; // History is a name a workbook keeps for itself
};

/// A text as a workbook can hold it: no control characters, at most as long as a cell may be.
std::string cellText(const std::string& text) {
    constexpr std::size_t kMostBytes = 32'000;
    std::string out = text.substr(0, kMostBytes);
    std::erase_if(out, [](char c) { return static_cast<unsigned char>(c) < ' ' && c != '\n' && c != '\t'; });
    return out;
}

/// Writes cells row by row; numbers stay numbers in full precision, what is not defined stays empty.
class Sheet {
public:
    Sheet(lxw_workbook* book, const std::string& name) : m_sheet(workbook_add_worksheet(book, name.c_str())) {
        if (m_sheet == nullptr) {
            throw std::logic_error("writeXlsx: the name of a sheet was refused");
        }
        m_bold = workbook_add_format(book);
        format_set_bold(m_bold);
        format_set_text_wrap(m_bold);
    }
    void heading(const std::vector<std::string>& titles) {
        for (const std::string& title : titles) {
            worksheet_write_string(m_sheet, m_row, m_column++, cellText(title).c_str(), m_bold);
        }
        nextRow();
        worksheet_freeze_panes(m_sheet, m_row, 0);
    }
    Sheet& cell(const std::string& text) {
        if (!text.empty()) {
            worksheet_write_string(m_sheet, m_row, m_column, cellText(text).c_str(), nullptr);
        }
        ++m_column;
        return *this;
    }
    Sheet& cell(const std::optional<double>& number) {
        if (number) {
            worksheet_write_number(m_sheet, m_row, m_column, *number, nullptr);
        }
        ++m_column;
        return *this;
    }
    void nextRow() {
        ++m_row;
        m_column = 0;
    }
    void widths(const std::vector<double>& widths) {
        for (std::size_t i = 0; i < widths.size(); ++i) {
            const auto column = static_cast<lxw_col_t>(i);
            worksheet_set_column(m_sheet, column, column, widths[i], nullptr);
        }
    }

private:
    lxw_worksheet* m_sheet;
    lxw_format* m_bold;
    lxw_row_t m_row = 0;
    lxw_col_t m_column = 0;
};

std::string withUnit(const std::string& title, const Analyte& analyte) {
    return analyte.unit.empty() ? title : title + ", " + analyte.unit;
}

/// One row of columns.
void writeColumns(Sheet& sheet, const std::vector<ResultColumn>& columns, const SampleResult& result) {
    for (const ResultColumn& column : columns) {
        const ResultCell made = column.cell(result);
        column.isNumber ? sheet.cell(made.number) : sheet.cell(made.text);
    }
}

std::vector<std::string> titlesOf(const std::vector<ResultColumn>& columns) {
    std::vector<std::string> out;
    std::ranges::transform(columns, std::back_inserter(out), &ResultColumn::title);
    return out;
}

/// Those that the method chooses.
void writeChosen(Sheet& sheet, const Batch& batch, const AnalyteEvaluation& evaluation) {
    const auto columns = resultColumns(batch, evaluation);
    sheet.widths(std::vector<double>(columns.size(), 16));
    sheet.heading(titlesOf(columns));
    for (const SampleResult& r : evaluation.results) {
        writeColumns(sheet, columns, r);
        sheet.nextRow();
    }
}

void writeResults(Sheet sheet, const Batch& batch, const AnalyteEvaluation& evaluation) {
    if (!batch.method.resultColumns.empty()) {
        writeChosen(sheet, batch, evaluation);
        return;
    }
    const Analyte& analyte = analyteOf(batch, evaluation);
    const auto added = addedResultColumns(batch, evaluation);
    sheet.widths({10, 28, 10, 12, 12, 14, 12, 10, 10, 14, 14, 14, 12, 14, 40});
    std::vector<std::string> titles{"Place",
                                    "Sample",
                                    "Role",
                                    "Replicates",
                                    "Response",
                                    withUnit("Read off", analyte),
                                    withUnit("SE", analyte),
                                    "CV, %",
                                    "Dilution",
                                    withUnit("Result", analyte),
                                    withUnit("Low", analyte),
                                    withUnit("High", analyte),
                                    "Recovery, %",
                                    "Status",
                                    "Remark"};
    std::ranges::transform(added, std::back_inserter(titles), &ResultColumn::title);
    sheet.heading(titles);
    for (const SampleResult& r : evaluation.results) {
        sheet.cell(shortName(batch, r.group)).cell(fullName(batch, r.group)).cell(std::string(name(r.group.role)));
        sheet.cell(static_cast<double>(r.response.n)).cell(r.response.mean).cell(r.readOff.x).cell(r.readOff.se);
        sheet.cell(r.concentration.cvPercent).cell(r.dilution).cell(r.result).cell(r.low).cell(r.high);
        sheet.cell(r.recoveryPercent).cell(std::string(name(r.status))).cell(r.remark);
        writeColumns(sheet, added, r);
        sheet.nextRow();
    }
}

void writeStandards(Sheet sheet, const Batch& batch, const AnalyteEvaluation& evaluation) {
    const Analyte& analyte = analyteOf(batch, evaluation);
    sheet.widths({8, 8, 14, 12, 8, 12, 12, 14, 10});
    sheet.heading({"Level", "Well", withUnit("Nominal", analyte), "Response", "In the fit", "Weight", "Fitted",
                   withUnit("Back-calculated", analyte), "Error, %"});
    for (const StandardValue& s : evaluation.standards) {
        sheet.cell("S" + std::to_string(s.level)).cell(placeName(batch, s.place)).cell(s.x).cell(s.y);
        sheet.cell(std::string(s.isUsed ? "yes" : "no")).cell(s.normalisedWeight).cell(s.fitted);
        sheet.cell(s.backCalculated).cell(s.errorPercent);
        sheet.nextRow();
    }
}

void writeCurve(Sheet sheet, const Batch& batch, const AnalyteEvaluation& evaluation) {
    const Fit& fit = evaluation.fit;
    sheet.widths({26, 20, 16});
    sheet.heading({"Curve", "Value", "SE"});
    const auto line = [&](const std::string& title, const std::string& value) {
        sheet.cell(title).cell(value);
        sheet.nextRow();
    };
    const auto number = [&](const std::string& title, const std::optional<double>& value) {
        sheet.cell(title).cell(value);
        sheet.nextRow();
    };
    line("Method", batch.method.title + ", revision " + std::to_string(batch.method.revision));
    line("Model", modelTitle(fit.model) + ", " + modelFormula(fit.model));
    line("Weights", weightingTitle(fit.weighting));
    line("Status", std::string(name(fit.status)));
    for (std::size_t i = 0; i < fit.size(); ++i) {
        sheet.cell(fit.parameterNames[i]).cell(fit.parameters[i]);
        if (i < fit.se.size()) {
            sheet.cell(fit.se[i]);
        }
        sheet.nextRow();
    }
    number("R²", fit.rSquared);
    if (fit.isUsable()) {
        number("Residual SD", fit.s);
        number("Degrees of freedom", fit.df);
    }
    number("LLOQ", evaluation.range.lloq);
    number("ULOQ", evaluation.range.uloq);
    number("Blank subtracted", evaluation.blank.subtracted);
}

void writeChecks(Sheet& sheet, const std::vector<CriterionResult>& criteria, const std::string& analyte) {
    for (const CriterionResult& c : criteria) {
        sheet.cell(analyte).cell(c.title).cell(c.limitText).cell(c.foundText).cell(std::string(name(c.outcome)));
        sheet.cell(c.where).cell(c.overrideReason);
        sheet.nextRow();
    }
}

} // namespace

Result<void> writeXlsx(const Batch& batch, const Evaluation& evaluation, const std::filesystem::path& path) {
    auto file = ReplacementFile::beside(path);
    if (!file) {
        return fail("export.cannot-write", file.error().message, file.error().advice);
    }
    lxw_workbook* book = workbook_new(file->path().c_str());
    const bool hasSeveral = evaluation.analytes.size() > 1;
    SheetNames names;
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        if (analyte.isOnlyInternal) {
            continue;
        }
        const std::string its = curveName(batch, analyte);
        writeResults(Sheet(book, names.next("Results", its, hasSeveral)), batch, analyte);
        writeCurve(Sheet(book, names.next("Curve", its, hasSeveral)), batch, analyte);
        writeStandards(Sheet(book, names.next("Standards", its, hasSeveral)), batch, analyte);
    }
    Sheet checks(book, "Checks");
    checks.widths({16, 30, 40, 14, 14, 40, 30});
    checks.heading({"Analyte", "Criterion", "Limit", "Found", "Outcome", "Where", "Overridden because"});
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        writeChecks(checks, analyte.criteria, curveName(batch, analyte));
    }
    writeChecks(checks, evaluation.criteria, "");
    checks.cell(verdictSentence(batch, evaluation));
    if (const lxw_error code = workbook_close(book); code != LXW_NO_ERROR) {
        return fail("export.cannot-write",
                    path.string() + " cannot be written (" + lxw_strerror(code) + "); what was there is as it was.",
                    "Check that the disk has room and that you may write there, or choose another place.");
    }
    if (auto done = file->commit(); !done) {
        return fail("export.cannot-write", done.error().message, done.error().advice);
    }
    return {};
}

} // namespace nuvat
