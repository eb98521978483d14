#include "nuvat/workflow/export.h"

#include "nuvat/batch/working.h"

#include <memory>
#include <xlsxwriter.h>

namespace nuvat {

namespace {

/// Writes cells row by row; numbers stay numbers in full precision, what is not defined stays empty.
class Sheet {
public:
    Sheet(lxw_workbook* book, const std::string& name) : m_sheet(workbook_add_worksheet(book, name.c_str())) {
        m_bold = workbook_add_format(book);
        format_set_bold(m_bold);
        format_set_text_wrap(m_bold);
    }
    void heading(const std::vector<std::string>& titles) {
        for (const std::string& title : titles) {
            worksheet_write_string(m_sheet, m_row, m_column++, title.c_str(), m_bold);
        }
        nextRow();
        worksheet_freeze_panes(m_sheet, m_row, 0);
    }
    Sheet& cell(const std::string& text) {
        if (!text.empty()) {
            worksheet_write_string(m_sheet, m_row, m_column, text.c_str(), nullptr);
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

/// A name that a sheet may have: at most 31 characters, none of []:*?/\ .
std::string sheetName(const std::string& what, const Analyte& analyte, bool hasSeveral) {
    std::string out = hasSeveral ? what + " " + analyte.name : what;
    for (char& c : out) {
        if (std::string_view("[]:*?/\\'").find(c) != std::string_view::npos) {
            c = ' ';
        }
    }
    constexpr std::size_t kMostCharacters = 31;
    while (out.size() > kMostCharacters) {
        out.pop_back();
        while (!out.empty() && (static_cast<unsigned char>(out.back()) & 0xC0u) == 0x80u) {
            out.pop_back(); // not in the middle of a character
        }
    }
    return out;
}

std::string withUnit(const std::string& title, const Analyte& analyte) {
    return analyte.unit.empty() ? title : title + ", " + analyte.unit;
}

void writeResults(Sheet sheet, const Batch& batch, const AnalyteEvaluation& evaluation) {
    const Analyte& analyte = analyteOf(batch, evaluation);
    sheet.widths({10, 28, 10, 12, 12, 14, 12, 10, 10, 14, 14, 14, 12, 14, 40});
    sheet.heading({"Place", "Sample", "Role", "Replicates", "Response", withUnit("Read off", analyte),
                   withUnit("SE", analyte), "CV, %", "Dilution", withUnit("Result", analyte), withUnit("Low", analyte),
                   withUnit("High", analyte), "Recovery, %", "Status", "Remark"});
    for (const SampleResult& r : evaluation.results) {
        sheet.cell(shortName(batch, r.group)).cell(fullName(batch, r.group)).cell(std::string(name(r.group.role)));
        sheet.cell(static_cast<double>(r.response.n)).cell(r.response.mean).cell(r.readOff.x).cell(r.readOff.se);
        sheet.cell(r.concentration.cvPercent).cell(r.dilution).cell(r.result).cell(r.low).cell(r.high);
        sheet.cell(r.recoveryPercent).cell(std::string(name(r.status))).cell(r.remark);
        sheet.nextRow();
    }
}

void writeStandards(Sheet sheet, const Batch& batch, const AnalyteEvaluation& evaluation) {
    const Analyte& analyte = analyteOf(batch, evaluation);
    sheet.widths({8, 8, 14, 12, 8, 12, 12, 14, 10});
    sheet.heading({"Level", "Well", withUnit("Nominal", analyte), "Response", "In the fit", "Weight", "Fitted",
                   withUnit("Back-calculated", analyte), "Error, %"});
    for (const StandardValue& s : evaluation.standards) {
        sheet.cell("S" + std::to_string(s.level)).cell(wellName(s.place)).cell(s.x).cell(s.y);
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
    std::filesystem::path beside = path;
    beside += ".part";
    lxw_workbook* book = workbook_new(beside.c_str());
    const bool hasSeveral = evaluation.analytes.size() > 1;
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        const Analyte& its = analyteOf(batch, analyte);
        writeResults(Sheet(book, sheetName("Results", its, hasSeveral)), batch, analyte);
        writeCurve(Sheet(book, sheetName("Curve", its, hasSeveral)), batch, analyte);
        writeStandards(Sheet(book, sheetName("Standards", its, hasSeveral)), batch, analyte);
    }
    Sheet checks(book, "Checks");
    checks.widths({16, 30, 40, 14, 14, 40, 30});
    checks.heading({"Analyte", "Criterion", "Limit", "Found", "Outcome", "Where", "Overridden because"});
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        writeChecks(checks, analyte.criteria, analyteOf(batch, analyte).name);
    }
    writeChecks(checks, evaluation.criteria, "");
    std::error_code error;
    if (workbook_close(book) == LXW_NO_ERROR) {
        std::filesystem::rename(beside, path, error);
        if (!error) {
            return {};
        }
    }
    std::filesystem::remove(beside, error);
    return fail("export.cannot-write", path.string() + " cannot be written.",
                "Check that the disk has room and that you may write there, or choose another place.");
}

} // namespace nuvat
