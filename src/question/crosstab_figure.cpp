#include "question/crosstab_finding.hpp"

namespace pear {

std::vector<Figure> crosstab_figures(const Crosstab& /*crosstab*/, const std::string& /*currency*/) { return {}; }

}  // namespace pear
