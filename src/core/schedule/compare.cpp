#include "schedule/compare.h"
#include "io/csv.h"
#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace ng {
namespace {

void add_checks(std::vector<ComparedRow>& out, const TestResult* left, const TestResult* right) {
    const auto& first = left ? *left : *right;
    ComparedRow head{left ? left->title : right->title, "", {}, {}, {}, {}, "", "", first.unit};
    if (left && right && left->title != right->title) head.test = left->title + " | " + right->title;
    if (left) {
        head.left = left->voltage_kV;
        head.left_status = status_text(*left);
    }
    if (right) {
        head.right = right->voltage_kV;
        head.right_status = status_text(*right);
    }
    out.push_back(head);
    auto find = [](const TestResult* test, const CheckId& id) -> const Check* {
        if (!test) return nullptr;
        const auto it =
            std::find_if(test->checks.begin(), test->checks.end(), [&](const auto& c) { return c.id == id; });
        return it == test->checks.end() ? nullptr : &*it;
    };
    std::vector<CheckId> ids;
    for (const auto* test : {left, right})
        if (test)
            for (const auto& c : test->checks)
                if (std::find(ids.begin(), ids.end(), c.id) == ids.end()) ids.push_back(c.id);
    for (const auto& id : ids) {
        const auto *a = find(left, id), *b = find(right, id);
        ComparedRow row{head.test, (a ? a : b)->title, {}, {}, {}, {}, "", "", (a ? a : b)->unit};
        if (a) {
            row.left = a->value;
            row.left_limit = a->limit;
            row.left_status = status_word(a->status);
        }
        if (b) {
            row.right = b->value;
            row.right_limit = b->limit;
            row.right_status = status_word(b->status);
        }
        out.push_back(std::move(row));
    }
}

} // namespace

std::vector<ComparedRow> compare(const Schedule& left, const Schedule& right) {
    std::vector<ComparedRow> out;
    std::set<const TestResult*> used;
    for (const auto& a : left.tests) {
        const TestResult* partner = nullptr;
        for (const auto& b : right.tests)
            if (!used.contains(&b) && b.kind == a.kind && (b.id == a.id || !left.find(b.id)) &&
                (b.id == a.id || !right.find(a.id))) {
                partner = &b;
                break;
            }
        if (partner) used.insert(partner);
        add_checks(out, &a, partner);
    }
    for (const auto& b : right.tests)
        if (!used.contains(&b)) add_checks(out, nullptr, &b);
    return out;
}

std::string compared_csv(const std::vector<ComparedRow>& rows, const std::string& left,
                         const std::string& right) {
    auto number = [](const std::optional<double>& v) {
        return v ? fmt::format("{:.6g}", *v) : std::string();
    };
    std::string text = csv_line({"test", "check", "unit", left, left + ", limit", left + ", status", right,
                                 right + ", limit", right + ", status"});
    for (const auto& r : rows)
        text += csv_line({r.test, r.check, r.unit, number(r.left), number(r.left_limit), r.left_status,
                          number(r.right), number(r.right_limit), r.right_status});
    return text;
}

} // namespace ng
