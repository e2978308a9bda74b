// Calls about bodies from drawings.
#pragma once
#include "design/prepared.h"

namespace ng::cli {

struct BodyArguments {
    std::string drawing;            ///< DXF
    std::vector<std::string> roles; ///< "LAYER=insulating body"
    std::string unit;               ///< "mm" or "inch": of drawings that do not say
    std::string axis = "x";
    std::string id, title;
    std::string job; ///< that it is put into
    std::string out; ///< *.ngbody, or the job under another name
    bool list = false;
};
/// Lists the layers of a drawing with their profiles, or puts it as a body into a job or a file.
int run_body(const BodyArguments& arguments);

} // namespace ng::cli
