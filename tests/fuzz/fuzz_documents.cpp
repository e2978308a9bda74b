// Whatever stands in a job, a standards pack or a book of steps: it is read or refused by item and remedy; a
// job that is read can be written and read again, and each of its designs is prepared and planned, or
// refused.
#include "io/file.h"
#include "mutate.h"
#include "plan/sheet.h"
#include "plan/template.h"
#include <cstdio>
#include <cstdlib>

namespace {
using namespace ng;

/// A refusal must name the item and the remedy.
bool is_named(const InputError& error) {
    return !error.item.empty() && !error.problem.empty() && !error.remedy.empty();
}

[[noreturn]] void wrong(const char* what, const InputError* error, const nlohmann::json& document) {
    std::fprintf(stderr, "%s: %s\n%s\n", what, error ? error->message().c_str() : "",
                 document.dump().substr(0, 4000).c_str());
    std::abort();
}

struct Seeds {
    nlohmann::json job, pack, steps;
    Library library;
    StepBook book;
};

int designs_planned = 0;

void try_job(const nlohmann::json& document, const Seeds& seeds, bool with_sheets) {
    const auto job = read_job(document, "fuzz");
    if (!job) {
        if (!is_named(job.error())) wrong("job refused without a name", &job.error(), document);
        return;
    }
    const auto written = write_job(*job);
    const auto again = read_job(written, "fuzz");
    if (!again) wrong("a written job was refused", &again.error(), document);
    if (write_job(*again).dump() != written.dump()) wrong("a job changed on its way", nullptr, document);
    for (const auto& design : job->designs) {
        const auto prepared = prepare_design(*job, design.id, seeds.library);
        if (!prepared) {
            if (!is_named(prepared.error()))
                wrong("design refused without a name", &prepared.error(), document);
            continue;
        }
        const auto plan = make_plan(*prepared);
        if (!plan) {
            if (!is_named(plan.error())) wrong("plan refused without a name", &plan.error(), document);
            continue;
        }
        ++designs_planned;
        for (const auto& paper : papers()) tile(template_strips(*plan, *prepared), paper);
        if (!with_sheets) continue;
        const auto sheet =
            make_sheet(*prepared, *plan, seeds.book, seeds.library.connectors, job->step_texts);
        if (!sheet && !is_named(sheet.error()))
            wrong("sheet refused without a name", &sheet.error(), document);
    }
}

void try_pack(const nlohmann::json& document) {
    const auto pack = read_standards_pack(document);
    if (!pack) {
        if (!is_named(pack.error())) wrong("pack refused without a name", &pack.error(), document);
        return;
    }
    const auto again = read_standards_pack(write_standards_pack(*pack));
    if (!again) wrong("a written pack was refused", &again.error(), document);
}

void try_steps(const nlohmann::json& document, const Seeds& seeds) {
    const auto book = read_steps(document);
    if (!book) {
        if (!is_named(book.error())) wrong("steps refused without a name", &book.error(), document);
        return;
    }
    const auto job = read_job(seeds.job, "demo");
    const auto prepared = prepare_design(*job, "causeway", seeds.library);
    const auto plan = make_plan(*prepared);
    const auto sheet = make_sheet(*prepared, *plan, *book, seeds.library.connectors, {});
    if (!sheet && !is_named(sheet.error())) wrong("sheet refused without a name", &sheet.error(), document);
}

} // namespace

int main(int argc, char** argv) {
    if (argc != 3) return 2;
    const int runs = std::atoi(argv[1]);
    const std::filesystem::path data = argv[2];
    auto library = load_library(data);
    if (!library) return 2;
    auto book = load_steps(*library);
    if (!book) return 2;
    const auto load = [&](const char* name) { return nlohmann::json::parse(*read_file(data / name)); };
    const Seeds seeds{load("demo/osprey-point.ngjob"), load("standards/ieee404.json"),
                      load("steps/steps.json"), *library, *book};
    try_job(seeds.job, seeds, true);
    try_pack(seeds.pack);
    try_steps(seeds.steps, seeds);
    fuzz::Mutator mutator(20261125);
    for (int run = 0; run < runs; ++run) {
        try_job(mutator.values(seeds.job), seeds, run % 8 == 0);
        try_pack(mutator.values(seeds.pack));
        try_steps(mutator.values(seeds.steps), seeds);
    }
    if (designs_planned < runs) return 1; // the mutations would prove nothing
    std::printf("%d mutated jobs, packs and books read or refused; %d designs planned\n", runs,
                designs_planned);
    return 0;
}
