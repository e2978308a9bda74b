// Mutations of a text that is JSON, or was.
#pragma once
#include <cmath>
#include <nlohmann/json.hpp>
#include <random>
#include <string>

namespace ng::fuzz {

class Mutator {
  public:
    explicit Mutator(unsigned seed) : random_(seed) {}
    std::size_t below(std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(random_); }

    /// A few bytes erased, inserted, replaced or copied elsewhere.
    std::string bytes(std::string text) {
        static const std::string pieces[] = {"-",
                                             "0",
                                             "1e308",
                                             "-1e-308",
                                             "null",
                                             "[]",
                                             "{}",
                                             "\"\"",
                                             "NaN",
                                             ",",
                                             "]",
                                             "}",
                                             "1e999",
                                             "true",
                                             "\"floating\": true",
                                             "\"clockwise\": true",
                                             "\\u0000",
                                             "\xff",
                                             "9999999999"};
        for (std::size_t change = 0, changes = 1 + below(4); change < changes && !text.empty(); ++change) {
            const auto at = below(text.size()), length = std::min(text.size() - at, 1 + below(12));
            switch (below(5)) {
            case 0:
                text.erase(at, length);
                break;
            case 1:
                text.insert(at, pieces[below(std::size(pieces))]);
                break;
            case 2:
                text.replace(at, length, pieces[below(std::size(pieces))]);
                break;
            case 3: { // a number becomes another
                const auto digit = text.find_first_of("0123456789", at);
                if (digit != std::string::npos) text[digit] = static_cast<char>('0' + below(10));
                break;
            }
            default:
                text.insert(below(text.size()), text.substr(at, length));
            }
        }
        return text;
    }

    /// One to three values of the document become others, or go, or change places: still JSON.
    nlohmann::json values(nlohmann::json document) {
        for (std::size_t change = 0, changes = 1 + below(3); change < changes; ++change) {
            nlohmann::json* at = &document;
            while (at->is_structured() && !at->empty() && below(6) > 0) {
                auto child = at->begin();
                std::advance(child, static_cast<long>(below(at->size())));
                at = &*child;
            }
            switch (below(4)) {
            case 0:
                *at = strange();
                break;
            case 1:
                if (at->is_number())
                    *at = at->get<double>() * std::pow(10, static_cast<double>(below(7)) - 3);
                else if (at->is_string())
                    *at = at->get<std::string>() + "x";
                else
                    *at = strange();
                break;
            case 2:
                if (at->is_object() && !at->empty())
                    at->erase(std::next(at->begin(), static_cast<long>(below(at->size()))));
                else if (at->is_array() && !at->empty())
                    at->erase(below(at->size()));
                break;
            default:
                if (at->is_array() && at->size() > 1)
                    std::swap((*at)[below(at->size())], (*at)[below(at->size())]);
                else if (at->is_object())
                    (*at)["unheard of"] = strange();
            }
        }
        return document;
    }

  private:
    nlohmann::json strange() {
        static const nlohmann::json list[] = {nullptr,
                                              true,
                                              0,
                                              -1,
                                              1e300,
                                              -1e-300,
                                              3.5,
                                              "",
                                              "none",
                                              "xlpe",
                                              nlohmann::json::array(),
                                              nlohmann::json::object(),
                                              nlohmann::json::array({1, "a"}),
                                              100000,
                                              12};
        return list[below(std::size(list))];
    }
    std::mt19937 random_;
};

} // namespace ng::fuzz
