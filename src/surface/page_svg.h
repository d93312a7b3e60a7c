// A page as a drawing (SVG 1.1), as it is used: for records, mails and printers.
#pragma once
#include "surface/use.h"

namespace loom::project {

// With its pictures in it; "": there is no page. Texts are in the shipped fonts where they are there.
std::string pageSvg(const SurfaceUse& use);

} // namespace loom::project
