#include "help.h"

#include <array>

namespace nuvat {

namespace {

struct Help {
    std::string_view command;
    std::string_view line; ///< what it does
    std::string_view text; ///< call and options
};

constexpr std::string_view kInput = R"(
Standards:
  --in DATA.csv      CSV or TSV with a line of headings
  --x COL, --y COL   concentration and response; "x" and "y" where nothing is said
  --level COL        key of the level; points of equal x are one level where nothing is said
  --s COL            standard deviation of each response, for --weight 1/s2
  --include COL      lines with 1, yes or true are used; cells of other lines may be empty
Curve:
  --model M          line, line0, line-fixed, quadratic, cubic, loglog, points, spline, 4pl, 5pl
  --weight W         none, 1/x, 1/x2, 1/y, 1/y2, 1/s2, variance
  --weight-from F    observed, level, fitted: the y of 1/y and 1/y2
  --weight-floor S   |y| counts as at least S times the largest |y|; the scatter decides where nothing is said
  --theta T          exponent of --weight variance by hand, 0 to 1.5
  --fit-to P         replicates, means
  --hold a=0,d=1     parameters of 4pl and 5pl that are held
  --fixed X,Y        point of line-fixed
  --spline-log       spline in log x
)";

constexpr std::array kHelp{
    Help{"evaluate", "the whole evaluation of a batch, as JSON or CSV", R"(nuvat-cli evaluate BATCH... [--json | --csv]

Writes the evaluation to standard output; JSON where nothing is said. Several batches give an array of evaluations in
their order, and cannot be CSV. The files are only read.
)"},
    Help{"export", "results, evaluation, workbook, report, layout or method of a batch",
         R"(nuvat-cli export BATCH --csv | --json | --xlsx | --pdf | --layout | --method [--out FILE] [--force]

--layout gives the layout as CSV, --method the method as JSON. --xlsx and --pdf need --out. A file that is one of the inputs is replaced only with --force.
)"},
    Help{"report", "the report of a batch as PDF", R"(nuvat-cli report BATCH --out FILE [--force]
)"},
    Help{"apply", "a new batch from the method and layout of another and from plate files",
         R"(nuvat-cli apply METHOD DATA... --out BATCH [--force]

METHOD is a batch, or a method file (.nuvat-method). Roles, levels, QCs, samples and dilutions of METHOD stay; readings, exclusions and overrides do not. Warnings of the
import go to standard error. A file that is one of the inputs is replaced only with --force.
)"},
    Help{"fit", "a calibration of columns of your own, as JSON", R"(nuvat-cli fit --in DATA.csv --model M [options]
)"},
    Help{"compare", "models and weightings on the same points, ranked, as JSON",
         R"(nuvat-cli compare --in DATA.csv [--model M,...] [--weight W,...] [--limit 15] [--limit-lowest 20]

First comes, of the fits within 2 of the lowest AICc, the one with the fewest parameters, then the plainest weighting;
the others by AICc. Fits without an AICc and 1/s2 are listed after them.
)"},
    Help{"detect", "limits of detection and quantitation by every method, as JSON",
         R"(nuvat-cli detect --in DATA.csv --model M [options]

  --blanks F.csv --blank-column COL    readings of blanks; standards at 0 where nothing is said
  --low F.csv --low-column COL         readings of low-level samples
  --alpha A --beta B                   errors of the first and second kind; beta is alpha where it is not given
  --m M  --k K  --precision P          readings a sample; 1/relative uncertainty at the limit (DIN 32645); percent
)"},
    Help{"solve", "a formula of your own by least squares, as JSON",
         R"usage(nuvat-cli solve --formula "b1/(1+exp(b2-b3*x))" --start b1=100,b2=1,b3=0.1 --in DATA.csv
                [--response "ln(y)"] [--weight "1/y^2"] [--confidence 0.95] [--no-fitted]

The response may also stand on the left of the formula: "y = a+b*x".
)usage"},
    Help{"stats", "statistics of a column; tests between groups; control series; as JSON",
         R"(nuvat-cli stats --in DATA.csv [--y COL] [--group COL] [--alpha 0.05] [--confidence 0.95]
                [--quantiles P,P,...] [--compare GROUP,GROUP] [--control] [--limits-from N]

  --confidence C     of the interval of the mean and of differences
  --quantiles P,...  shares between 0 and 1
  --group COL        each group on its own, and analysis of variance, Bartlett, Levene, Cochran
  --compare A,B      t test with pooled variance, Welch's t test, F test and difference of two groups of --group
  --control          the values as a control series: rules, EWMA, CUSUM, moving range
  --limits-from N    centre and SD of the control series from its first N values; all where nothing is said
)"},
    Help{"demo", "makes a demo batch", R"(nuvat-cli demo --out BATCH [--name NAME]

  --name NAME   patulin (where nothing is said), polyphenols, cuvettes, acids, mycotoxins, esters, sulfite,
                ascorbic-acid
)"},
    Help{"list", "plans runs in a batch, from a list", R"(nuvat-cli list BATCH --in LIST

LIST is CSV, text, XLSX or ODS with headings: name, vial, role, level, dilution, injections, volume. Without a role the
name says it. The runs are put at the end of the run list of BATCH; what speaks against starting it is said.
)"},
    Help{"measure", "measures the planned runs of a batch with an instrument",
         R"(nuvat-cli measure BATCH --with HOST:PORT [--minutes M]

  --with HOST:PORT  where the instrument listens; nuvat-sim starts a stand-in for one
  --minutes M       length of each run; without it as the instrument has it

What came of a run is kept when the line is lost: the run is marked as failed and can be measured again.
)"},
    Help{"read", "what a file of an instrument holds, as JSON", R"(nuvat-cli read FILE

Plates, lists and traces in CSV, TSV and text; JCAMP-DX; ANDI chromatograms; mzML. A format that is recognised and not
read yet gives exit status 1.
)"},
    Help{"peaks", "the peaks of a trace with areas, heights, widths and charges, as JSON",
         R"(nuvat-cli peaks --in FILE [--channel NAME | --x COL --y COL-or-FORMULA] [options]

Finding:
  --smooth 9,2            window and order, for finding only; off where nothing is said
  --area-smoothed         areas and heights from the smoothed trace as well
  --least-height 8s|0.3   times the noise, or absolute; 8s where nothing is said
  --least-valley 8s|0.3   how far the trace must fall between two peaks
  --least-width W --least-area A
  --ignore A:B            a stretch without peaks; may be repeated
  --negative --shoulders  are found as well
  --sweep N               of a trace that goes forth and back; 1 where nothing is said
Given:
  --peak A:B              start and end, nothing is found; may be repeated, those that touch share a line
  --line X0,Y0,X1,Y1      the base line, between its ends or those of --peak
Baseline:
  --baseline straight|valleys|horizontal|tangent|none|polynomial:3|als:1e6,0.01|level:A:B
  --through A:B           a stretch the polynomial goes through; all but the peaks where nothing is said
  --skim none|tangent|double-tangent|exponential [--skim-ratio 10]
Also:
  --dead-time T           for retention factors
  --scan-rate V/s         for charges; --cathodic-positive turns the current around
  --noise A:B --noise-baseline A:B|line [--blank FILE[:COL]]   for signal to noise
)"},
    Help{"line", "the straight line between two markers on a trace, as JSON",
         R"(nuvat-cli line --in FILE [--channel NAME | --x COL-or-FORMULA --y COL-or-FORMULA] --from A --to B

Where --x is a formula, --from and --to refer to the first column named in it.
)"},
    Help{"addition", "standard addition: the content where the response would be 0, as JSON",
         R"(nuvat-cli addition --in DATA.csv [--x added] [--y response] [--confidence 0.95] [--factor F]
                   [--volume V0 --standard C [--uncorrected]]

  --volume V0 --standard C   --x holds volumes added of a standard of concentration C to V0; responses are
                             multiplied by (V0+v)/V0, unless --uncorrected
  --factor F                 dilution, for the content in the sample
)"},
    Help{"normalise", "peaks as shares of their total, with factors and groups, as JSON",
         R"(nuvat-cli normalise --in AREAS.csv [--area area] [--factor COL] [--name COL] [--ignore 1,4]
                    [--group NAME=2,3,5]...

Peaks are numbered from 1 in the order of the file. Factors multiply areas.
)"},
    Help{"convert", "a value in another unit, as JSON",
         R"(nuvat-cli convert --from UNIT --to UNIT [--value V] [--molar-mass G-PER-MOL]
)"},
    Help{"potency", "potency of a preparation against a reference, by parallel curves, as JSON",
         R"(nuvat-cli potency --in DATA.csv --reference NAME [--test NAME] [--group group] [--x x] [--y y]
                  [--model 4pl|line] [--weight W] [--weight-floor S] [--confidence 0.95] [--alpha 0.05]

  --group COL        says to which preparation a line belongs; --test where there are more than two
  --model 4pl        four-parameter curves with both asymptotes and the slope in common
          line       straight lines over ln(dose) with the slope in common
  --weight W         none, 1/x, 1/x2, 1/y, 1/y2, 1/s2, by the observed responses
  --alpha A          curves are not parallel where the F test has p below it
)"},
    Help{"combine", "several dilutions of one sample taken together, as JSON",
         R"(nuvat-cli combine --in DATA.csv --range LOW:HIGH [--factor factor] [--value value] [--se se]

A line a dilution: its factor, what was measured in it, the standard error of that. Lines are numbered from 1.
)"},
    Help{"decide", "values against decision limits or a cut-off from negatives, as JSON",
         R"(nuvat-cli decide --in DATA.csv [--value value] [--se COL] [--df COL] [--confidence 0.95]
                 --limit L[,L...] [--names a,b,...]
nuvat-cli decide --in DATA.csv [--value value] [--se COL]
                 --negatives FILE [--negatives-value COL] [--k 3] [--grey LOW:HIGH]

  --limit        limits that rise; a value equal to one is below it
  --names        of the classes, one more than limits
  --negatives    negative samples: the cut-off is their mean + k SD
  --grey         zone of the index (value/cut-off) that is borderline, ends included
)"},
    Help{"control-percent", "samples in percent of a control, with intervals, as JSON",
         R"(nuvat-cli control-percent --in DATA.csv [--group group] [--value response] [--control control]
                          [--blank blank] [--confidence 0.95]
)"},
    Help{"best", "the best n of some replicates, as JSON",
         R"(nuvat-cli best --in DATA.csv --n N [--value COL]

Of all subsets of N the one with the smallest standard deviation; of equal ones that which comes first.
)"},
    Help{"plan", "how standards are made from a stock, as JSON",
         R"(nuvat-cli plan --stock C (--levels C,C,… | --top C --divide-by D --count N) (--volume V | --serial --left V)
                [--least V] [--stock-tolerance 0] [--volume-tolerance 0]

  --stock             concentration of the stock
  --levels            concentrations, in any order; 0 is diluent alone
  --top               the first level; each of the others is the one before divided by --divide-by
  --volume            what is made of each level
  --serial            each level from the one above it, so that --left stays in each tube
  --least             the least volume that can be pipetted; what would be less is made in steps, or warned of
  --stock-tolerance   the stock lies within so many percent of its concentration
  --volume-tolerance  the same of every pipetted volume; both give relativeSe
)"},
    Help{"quantify", "a batch of peak tables with internal standards and qualifiers, as JSON",
         R"(nuvat-cli quantify --in PEAKS.csv [--response ratio|ratio-by-concentration|area] [options]

One line for each analyte in each run. Columns are found by their names or named: --injection, --name, --role, --level,
--analyte, --internal-standard, --nominal, --internal-concentration, --time, --area, --qualifier, --internal-time,
--internal-area, --dilution.

  --response             area over that of the internal standard against the ratio of concentrations (ratio) or the
                         concentration, or the area against the concentration
  --model, --weight, …   as in nuvat-cli fit; a line without weights where nothing is said
  --ratio-relative       tolerance of the ratio of the qualifier in percent of the mean of the standards (30)
  --ratio-absolute       the same in percentage points
  --expected             expected times, analyte=time,…; else the mean of the standards
  --time-band            window of the time, in percent of it
  --relative-time-band   window of the time over that of the internal standard, in percent of the mean of the standards
  --carry-over           a blank after the highest standard holds at most so many percent of the lowest level (20)
)"},
    Help{"polish", "row and column effects of a plate by median polish, as JSON",
         R"(nuvat-cli polish --in PLATE.csv [--iterations N]

Ends when the sum of absolute residuals changes by less than 1 % or after 10 rounds; with --iterations only when it
changes by less than 1e-12 of itself, or after N rounds.
)"},
};

constexpr std::string_view kFitMore = R"(
Reading off and what comes out:
  --read Y,Y,...                       responses to read off
  --read-file F.csv --read-sample COL  the same from a file, with the sample each belongs to
  --m M                                each response is the mean of M readings
  --replicates-average concentration|response
  --confidence 0.95                    of all intervals
  --interval propagation|log-propagation|fieller|inversion|profile|bootstrap
  --seed N --simulations N             of the bootstrap
  --blank-se SE                        uncertainty of a blank that only the samples were corrected by
  --factor F --factor-relative-se R    dilution and its relative uncertainty
  --band X,X,...                       response, its SE and interval at these concentrations
  --diagnostics                        residuals, leverage, lack of fit, Mandel, Bartlett, runs
  --no-standards                       leaves the list of standards out
)";

} // namespace

std::string overview() {
    std::string out = "nuvat-cli: what the window computes, from the command line\n\n";
    constexpr std::size_t kWidth = 17;
    for (const Help& help : kHelp) {
        out += "  nuvat-cli " + std::string(help.command) + std::string(kWidth - help.command.size(), ' ') +
               std::string(help.line) + "\n";
    }
    return out + "\n  nuvat-cli COMMAND --help says what a command takes.\n\n"
                 "Every option may be given once, unless its help says otherwise. Exit status: 0 done, 1 the data or "
                 "the disk do not allow it, 2 wrong "
                 "call.\n";
}

std::string_view helpOf(std::string_view command) {
    static const std::string fit =
        std::string(kHelp[4].text) + std::string(kInput.substr(1)) + std::string(kFitMore.substr(1));
    static const std::string detect = std::string(kHelp[6].text) + std::string(kInput);
    if (command == "fit") {
        return fit;
    }
    if (command == "detect") {
        return detect;
    }
    for (const Help& help : kHelp) {
        if (help.command == command) {
            return help.text;
        }
    }
    return {};
}

} // namespace nuvat
