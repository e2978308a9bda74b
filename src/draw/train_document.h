// The trainer on paper: the sheet of an exam, the same for a whole class, and the result of one, to be signed
// by the instructor.
#pragma once
#include "draw/document.h"
#include "trainer/train_file.h"

namespace ng::draw {

/// Questions without their answers, with room to write.
Document exam_document(const std::vector<Exercise>& exercises, const Exam& exam, const std::string& job_title,
                       const TrainerData& data);

/// What was answered, what is right, and how it stands by topic.
Document result_document(const Exam& exam, const std::vector<KeptAnswer>& answers, const Progress& progress);

} // namespace ng::draw
