// The weave on paper: an SVG drawing, or a PDF of as many A3 pages as it takes to stay readable.
#pragma once
#include <QString>

namespace loom::app {

class Session;
class WeaveView;

// False and a Session::report() if the file cannot be written.
bool saveWeaveAsSvg(Session& session, WeaveView& weave, const QString& file);
bool saveWeaveAsPdf(Session& session, WeaveView& weave, const QString& file);

} // namespace loom::app
