// Secure Hash Algorithm of 256 bits (FIPS 180-4), by OpenSSL: of bytes, and of values field by field.
#pragma once
#include <array>
#include <concepts>
#include <cstdint>
#include <map>
#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <tuple>
#include <type_traits>
#include <utility>
#include <vector>

namespace ng {

/// 64 hexadecimal digits, small letters.
std::string sha256_hex(std::string_view bytes);

/// Collects values and gives their hash. The hash of a value depends on the value alone: not on the machine,
/// the locale, the program's version or the order in which containers were filled. Every container is
/// preceded by its size, so that neighbours cannot be mistaken for one another.
class Digest {
  public:
    Digest();
    ~Digest();
    Digest(const Digest&) = delete;
    Digest& operator=(const Digest&) = delete;

    Digest& add(bool value) { return add_whole(value ? 1 : 0); }
    Digest& add(double value); ///< by its bits; -0 as 0
    Digest& add(std::string_view text);
    Digest& add(const std::string& text) { return add(std::string_view(text)); }
    Digest& add(const char* text) { return add(std::string_view(text)); }
    Digest& add(const nlohmann::json& value); ///< objects in the order of their keys
    template <class T>
    requires(std::is_enum_v<T> || std::integral<T>) Digest& add(T value) {
        return add_whole(static_cast<std::int64_t>(value));
    }
    template <class T> Digest& add(const std::optional<T>& value) {
        add(value.has_value());
        return value ? add(*value) : *this;
    }
    template <class A, class B> Digest& add(const std::pair<A, B>& value) {
        return add(value.first).add(value.second);
    }
    template <class T> Digest& add(const std::vector<T>& values) {
        add(values.size());
        for (const auto& value : values) add(value);
        return *this;
    }
    template <class K, class V> Digest& add(const std::map<K, V>& values) {
        add(values.size());
        for (const auto& entry : values) add(entry);
        return *this;
    }
    /// Of a value that lists its fields: fields() returns a tuple of references.
    template <class T>
    requires requires(const T& value) { value.fields(); }
    Digest& add(const T& value) {
        std::apply([this](const auto&... field) { (add(field), ...); }, value.fields());
        return *this;
    }

    /// 64 hexadecimal digits. Nothing may be added afterwards.
    std::string hex();

  private:
    Digest& add_whole(std::int64_t value);
    void bytes(const void* from, std::size_t count);
    struct State;
    std::unique_ptr<State> state_;
};

/// The hash of one value.
template <class T> std::string hash_of(const T& value) {
    return Digest().add(value).hex();
}

/// How many fields an aggregate has: a list of fields that forgets one does not compile where this is held
/// to it (see `lists_every_field`).
namespace detail {
struct AnyField {
    template <class T> operator T() const; // NOLINT: converts to whatever a field is
};
template <class T, class... Fields> constexpr std::size_t count_fields() {
    if constexpr (requires { T{std::declval<Fields>()..., std::declval<AnyField>()}; })
        return count_fields<T, Fields..., AnyField>();
    else
        return sizeof...(Fields);
}
} // namespace detail
template <class T>
constexpr bool lists_every_field = std::tuple_size_v<decltype(std::declval<const T&>().fields())> ==
                                   detail::count_fields<T>();

} // namespace ng
