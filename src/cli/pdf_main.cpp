// nuvat-pdf BATCH PDF: writes the report of a batch file. nuvat-cli starts it, so that only reports load Qt.
#include "nuvat/core/base/text.h"
#include "nuvat/report/report_file.h"
#include "nuvat/workflow/session.h"

#include <iostream>

int main(int argc, char** argv) {
    if (argc != 3) {
        std::cerr << "nuvat-pdf: takes a batch file and the PDF to write; nuvat-cli report does the same.\n";
        return 2;
    }
    const auto batch = nuvat::readBatchFile(argv[1]);
    const auto written = batch ? nuvat::writeReportPdf(*batch->document, argv[2], nuvat::systemMillis())
                               : nuvat::Result<void>(tl::unexpected(batch.error()));
    if (!written) {
        std::cerr << "nuvat-cli: " << nuvat::forTerminal(written.error().text()) << "\n";
        return 1;
    }
    return 0;
}
