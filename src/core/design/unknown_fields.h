// Fields of a job that this program does not know, with those that only a family can name.
#pragma once
#include "accessory/family.h"
#include "document/job.h"

namespace ng {

/// unknown_fields(job), and numbers, choices and tolerances that the family of their design does not have.
std::vector<UnknownField> unknown_fields(const Job& job, const FamilyTable& families);

} // namespace ng
