// The record: begin, add, verify, show, export, import, search, trends, report.
#pragma once
#include "design/library.h"

namespace ng::cli {

struct RecordArguments {
    std::string file, kept, job, design, role, initials, out, csv_file, pdf, html, kind, body, why,
        mark = "screen edge", by = "all", occasion = "installation", folder, svg, words, batch, jointer, tool,
        family, cable;
    std::int64_t accessory = 0, corrects = 0, instrument = 0;
    bool json = false, csv = false, reworked = false, out_of_calibration = false, field = false;
    std::uint64_t study = 0;
};
int run_record_verify(const RecordArguments& arguments);
int run_record_export(const RecordArguments& arguments);
int run_record_import(const RecordArguments& arguments);
int run_record_continue(const RecordArguments& arguments);
int run_record_search(const RecordArguments& arguments);
int run_record_trends(const RecordArguments& arguments);
int run_record_begin(const RecordArguments& arguments, const Library& library);
int run_record_add(const RecordArguments& arguments);
int run_record_show(const RecordArguments& arguments, const Library& library);
int run_record_report(const RecordArguments& arguments, const Library& library);
int run_record_tests(const RecordArguments& arguments, const Library& library);

} // namespace ng::cli
