// The trainer: new, make, look, answer, score, next, progress, exam, report, again, forget.
#pragma once
#include "design/library.h"
#include <cstdint>

namespace ng::cli {

struct TrainArguments {
    std::string job, exercise, design, task, kind, means, given, file, role, initials, out, pdf, html;
    std::uint64_t seed = 0;
    std::int64_t exam = 0;
    int level = 1, count = 10;
    double minutes = 30;
    bool json = false, critical = false;
};
int run_train_new(const TrainArguments& arguments, const Library& library);
int run_train_make(const TrainArguments& arguments, const Library& library);
int run_train_look(const TrainArguments& arguments, const Library& library);
int run_train_answer(const TrainArguments& arguments, const Library& library);
int run_train_score(const TrainArguments& arguments, const Library& library);
int run_train_next(const TrainArguments& arguments, const Library& library);
int run_train_progress(const TrainArguments& arguments);
int run_train_exam(const TrainArguments& arguments, const Library& library);
int run_train_report(const TrainArguments& arguments);
int run_train_again(const TrainArguments& arguments, const Library& library);
int run_train_forget(const TrainArguments& arguments);

} // namespace ng::cli
