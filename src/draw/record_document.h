// The as-built report of one accessory: what was designed, what was read, decided, tested and signed, the
// field as built beside as designed, and the hash that a reader can hold against the log.
#pragma once
#include "draw/document.h"
#include "record/as_built.h"
#include "record/log.h"

namespace ng::draw {

struct ReportedRecord {
    const AccessoryRecord* record = nullptr;
    const BuiltVerdict* verdict = nullptr; ///< missing: it cannot be built, then `why_not` says so
    std::string why_not;
    std::string unmeasured_words; ///< of builds within the tolerances of what was not measured; may be empty
    const Log* log = nullptr;
    const Verification* verification = nullptr;
    std::vector<std::string> open; ///< hold points
    std::string data_version;
};
Document record_document(const ReportedRecord& reported);

} // namespace ng::draw
