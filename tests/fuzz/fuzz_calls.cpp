// Calls the command line with mutated files: core_fuzz_calls PROGRAM RUNS SEED. No signal, no exit but 0, 1
// and 2, no more than 1 GB, no more than 60 s; where the input was refused, one line that says so.
#include "io/file.h"
#include "kinds.h"
#include "mutate.h"
#include <chrono>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <fcntl.h>
#include <map>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

namespace {
using namespace ng::fuzz;

struct Call {
    std::string kind, extension;
    std::vector<std::string> words; ///< FILE stands for the mutated file, OUT for one that is written
};

const std::vector<Call>& calls() {
    static const std::vector<Call> list = {
        {"section", "ngsection", {"solve", "FILE", "--goal", "30%"}},
        {"section", "ngsection", {"solve", "FILE", "--goal", "30%", "--json"}},
        {"section", "ngsection", {"solve", "FILE", "--goal", "30%", "--vtu", "OUT.vtu", "--csv", "OUT"}},
        {"job", "ngjob", {"check", "FILE", "--service-only", "--design", "quay-mast"}},
        {"job", "ngjob", {"marks", "FILE", "--design", "causeway"}},
        {"job", "ngjob", {"marks", "FILE", "--design", "berth-2", "--csv"}},
        {"job", "ngjob", {"marks", "FILE", "--design", "slipway-end", "--json"}},
        {"job", "ngjob", {"section", "FILE", "--design", "ring-switch"}},
        {"job",
         "ngjob",
         {"template", "FILE", "--design", "causeway", "--dxf", "OUT.dxf", "--svg", "OUT.svg"}},
        {"job", "ngjob", {"template", "FILE", "--design", "quay-mast", "--pdf", "OUT.pdf"}},
        {"job", "ngjob", {"sheet", "FILE", "--design", "causeway", "--not-judged", "--html", "OUT.html"}},
        {"drawing",
         "dxf",
         {"import-body", "FILE", "--role", "BODY=insulating body", "--unit", "mm", "--out", "OUT.ngbody"}},
        {"drawing", "dxf", {"import-body", "FILE", "--list"}},
        {"standards", "json", {"standards", "--check", "FILE"}},
        {"length",
         "txt",
         {"solve", NEEDLEGAUGE_REFERENCE_DIR "/sections/bare_cutback.ngsection", "--goal", "TEXT"}},
        {"length", "txt", {"marks", NEEDLEGAUGE_DATA_DIR "/demo/osprey-point.ngjob", "--design", "TEXT"}},
    };
    return list;
}

struct Answer {
    int code = -1, signal = 0;
    double seconds = 0;
    long peak_kb = 0;
    std::string err;
};

Answer run(const std::string& program, std::vector<std::string> words, const std::string& folder) {
    const auto started = std::chrono::steady_clock::now();
    const auto err = folder + "/err";
    const pid_t child = fork();
    if (child == 0) {
        const rlimit memory{1ul << 30, 1ul << 30}, seconds{60, 60};
        setrlimit(RLIMIT_AS, &memory);
        setrlimit(RLIMIT_CPU, &seconds);
        const int out = open("/dev/null", O_WRONLY),
                  error = open(err.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0600);
        dup2(out, 1);
        dup2(error, 2);
        std::vector<char*> arguments{const_cast<char*>(program.c_str())};
        for (auto& word : words) arguments.push_back(word.data());
        arguments.push_back(nullptr);
        execv(program.c_str(), arguments.data());
        _exit(127);
    }
    int status = 0;
    rusage usage{};
    wait4(child, &status, 0, &usage);
    Answer answer;
    if (WIFEXITED(status)) answer.code = WEXITSTATUS(status);
    if (WIFSIGNALED(status)) answer.signal = WTERMSIG(status);
    answer.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - started).count();
    answer.peak_kb = usage.ru_maxrss;
    if (const auto text = ng::read_file(err)) answer.err = *text;
    return answer;
}

/// One line, no control characters but its end.
bool is_one_line(const std::string& text) {
    if (text.empty() || text.back() != '\n') return false;
    for (std::size_t i = 0; i + 1 < text.size(); ++i)
        if (static_cast<unsigned char>(text[i]) < 0x20 || text[i] == 0x7f) return false;
    return true;
}

std::string replaced(std::string word, const std::string& what, const std::string& by) {
    if (const auto at = word.find(what); at != std::string::npos) word.replace(at, what.size(), by);
    return word;
}

} // namespace

int main(int argc, char** argv) {
    if (argc != 4) return 2;
    const std::string program = argv[1];
    const int runs = std::atoi(argv[2]);
    const auto seed = static_cast<unsigned>(std::atoi(argv[3]));
    char name[] = "/tmp/needlegauge-calls-XXXXXX";
    if (!mkdtemp(name)) return 2;
    const std::string folder = name;
    std::filesystem::create_directory(folder + "/out");
    Mutator mutator(seed);
    std::map<int, int> by_code;
    long peak_kb = 0;
    double longest = 0;
    int wrong = 0;
    for (int i = 0; i < runs; ++i) {
        const auto& call = calls()[mutator.below(calls().size())];
        const auto& kind = *find_kind(call.kind);
        const auto& good = kind.seeds[mutator.below(kind.seeds.size())];
        std::string text;
        if (kind.is_json && i % 2)
            text = mutator.values(nlohmann::json::parse(good)).dump();
        else
            text = mutator.bytes(good);
        const auto file = folder + "/in." + call.extension;
        if (!ng::write_file_safely(file, text)) return 2;
        text = text.substr(0, text.find('\0'));
        std::vector<std::string> words;
        for (const auto& word : call.words)
            words.push_back(
                replaced(replaced(replaced(word, "FILE", file), "OUT", folder + "/out/o"), "TEXT", text));
        const auto answer = run(program, words, folder);
        ++by_code[answer.signal ? -answer.signal : answer.code];
        peak_kb = std::max(peak_kb, answer.peak_kb);
        longest = std::max(longest, answer.seconds);
        const bool fine =
            answer.code == 0 || answer.code == 1 || (answer.code == 2 && is_one_line(answer.err));
        if (fine) continue;
        const auto kept = "wrong-" + std::to_string(seed) + "-" + std::to_string(i) + "." + call.extension;
        std::filesystem::copy_file(file, kept, std::filesystem::copy_options::overwrite_existing);
        std::printf("wrong: exit %d, signal %d, %.1f s, %s\n  %s\n  kept as %s\n", answer.code, answer.signal,
                    answer.seconds, answer.err.c_str(), words.front().c_str(), kept.c_str());
        ++wrong;
    }
    std::filesystem::remove_all(folder);
    std::printf("%d calls:", runs);
    for (const auto& [code, count] : by_code) std::printf(" %d x exit %d", count, code);
    std::printf("; at most %ld MB and %.1f s; %d wrong\n", peak_kb / 1024, longest, wrong);
    return wrong == 0 ? 0 : 1;
}
