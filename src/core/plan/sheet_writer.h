// Puts a design's facts and numbers into the texts of the step book.
#pragma once
#include "plan/steps.h"
#include <functional>
#include <set>

namespace ng {

/// Refers to what it was made of.
class SheetWriter {
  public:
    SheetWriter(const PreparedDesign& p, const CutPlan& plan, const std::vector<Connector>& connectors);

    bool called_for(const StepSpec& step) const;
    /// Of every part, what lies beneath it (plan/lay_order.h).
    const std::map<PlaceId, std::set<PlaceId>>& beneath() const { return beneath_; }
    /// A body that this section has over the lug's neck cannot go on before the lug.
    bool body_over_lug() const;
    bool all_hold(const std::vector<std::string>& facts) const;
    bool has_part(PlaceKind kind) const;
    bool is_joint() const { return joint_; }
    int sides() const { return joint_ ? 2 : 1; }
    /// Of the side that has more of them: three cables of one core may meet one of three.
    int cores() const {
        return std::max(p_.cable.cores, joint_ ? p_.context().cable_of(CableSide::b).cores : 1);
    }

    /// Where the facts that call for a step hold of one side of a joint only, it speaks of that side.
    std::optional<CableSide> speak_of(const StepSpec& step);

    /// Puts values for the braces; refuses one that it cannot fill.
    Result<std::string> fill(const std::string& text, const PlacedPart* part, const std::string& step) const;

  private:
    void gather_facts();

    std::string school(const std::string& key) const;
    bool has_mark(MarkKind kind) const;
    std::set<CableSide> sides_of(const StepSpec& step) const;
    bool holds(const std::string& fact) const;

    /// A value of each side, named where they differ or where there are two.
    template <class Value> std::string of_sides(Value value) const {
        if (only_) return value(*only_);
        const std::string a = value(CableSide::a), b = joint_ ? value(CableSide::b) : std::string();
        if (!joint_ || b.empty()) return a;
        if (a.empty()) return "side B " + b;
        return a == b ? a + " on both sides" : "side A " + a + ", side B " + b;
    }

    std::optional<std::string> marks(const std::string& word) const;
    /// Of a layer of the cable, both sides; none: no side has it.
    std::optional<std::string>
    of_layers(const std::string& name, const std::function<std::string(const LayerDimension&)>& value) const;
    /// A value of the first mark of this kind on each side; none: neither side has one.
    std::optional<std::string> of_marks(const std::string& word,
                                        const std::function<std::string(const CutMark&)>& value) const;

    std::string parked(bool over_jacket) const;

    double from_datum(double z, CableSide side) const;
    std::string distance_words(const CutMark& mark) const;
    std::string from_reference(const CutMark& mark) const;

    std::string ends_of(const PlacedPart& part) const;

    std::string place_words(const PlacedPart& part) const;
    static std::string place_otherwise(const PlacedPart& part);

    std::string tape_words() const;

    std::optional<std::string> value(const std::string& name, const PlacedPart* part) const;

    std::optional<std::string> parameter(const std::string& key) const;

    std::optional<std::string> plain(const std::string& name) const;

    const PreparedDesign& p_;
    const CutPlan& plan_;
    const BuiltAccessory& built_;
    const Family& family_;
    const std::map<PlaceId, std::set<PlaceId>> beneath_;
    bool joint_;
    const Connector* connector_ = nullptr;
    std::set<std::string> facts_;
    std::map<std::string, std::set<CableSide>> sides_of_; ///< facts of a cable
    std::optional<CableSide> only_;
};

} // namespace ng
