// The same kinds for libFuzzer (clang -fsanitize=fuzzer; scripts/fuzz-all): the kind is the argument
// --kind=NAME, which libFuzzer leaves alone. Values of JSON are mutated as values half of the time.
// --seeds=FOLDER writes the seeds.
#include "io/file.h"
#include "kinds.h"
#include "mutate.h"
#include <cstdint>
#include <cstdio>
#include <cstring>

extern "C" std::size_t LLVMFuzzerMutate(std::uint8_t* data, std::size_t size, std::size_t most);

namespace {
const ng::fuzz::Kind* the_kind = nullptr;
std::uint64_t runs = 0;
} // namespace

extern "C" int LLVMFuzzerInitialize(int* argc, char*** argv) {
    std::string folder;
    for (int i = 1; i < *argc; ++i) {
        const std::string word = (*argv)[i];
        if (word.rfind("--kind=", 0) == 0) the_kind = ng::fuzz::find_kind(word.substr(7));
        if (word.rfind("--seeds=", 0) == 0) folder = word.substr(8);
    }
    if (!the_kind) {
        for (const auto& kind : ng::fuzz::kinds()) std::printf("%s\n", kind.name.c_str());
        std::exit(2);
    }
    if (!folder.empty()) {
        for (std::size_t i = 0; i < the_kind->seeds.size(); ++i)
            if (!ng::write_file_safely(std::filesystem::path(folder) / std::to_string(i), the_kind->seeds[i]))
                std::exit(2);
        std::exit(0);
    }
    return 0;
}

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    the_kind->take(std::string(reinterpret_cast<const char*>(data), size), ++runs % 256 == 0);
    return 0;
}

extern "C" std::size_t LLVMFuzzerCustomMutator(std::uint8_t* data, std::size_t size, std::size_t most,
                                               unsigned seed) {
    if (!the_kind->is_json || seed % 2) return LLVMFuzzerMutate(data, size, most);
    const auto document = nlohmann::json::parse(data, data + size, nullptr, false);
    if (document.is_discarded()) return LLVMFuzzerMutate(data, size, most);
    const auto text = ng::fuzz::Mutator(seed).values(document).dump(-1, ' ', false,
                                                                    nlohmann::json::error_handler_t::replace);
    if (text.size() > most) return LLVMFuzzerMutate(data, size, most);
    std::memcpy(data, text.data(), text.size());
    return text.size();
}
