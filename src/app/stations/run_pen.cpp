#include "run_pen.h"

#include "app/theme/theme.h"

namespace ember::app {

using theme::Role;
using wires::RunKind;

QPen penOf(RunKind kind, double width) {
    switch (kind) {
    case RunKind::Mains: return {theme::color(Role::Ember), width, Qt::DashDotLine};
    case RunKind::Earth: return {theme::color(Role::Verdigris), width, Qt::DashDotDotLine};
    case RunKind::Heater: return {theme::color(Role::Brass), width, Qt::DotLine};
    case RunKind::Winding: return {theme::color(Role::Ember), width, Qt::SolidLine};
    case RunKind::Ground: return {theme::color(Role::Bone), width, Qt::SolidLine};
    case RunKind::HighVoltage: return {theme::color(Role::Ember), width, Qt::DashLine};
    case RunKind::Bias: return {theme::color(Role::Slate), width, Qt::DashLine};
    case RunKind::Signal: return {theme::color(Role::Verdigris), width, Qt::SolidLine};
    case RunKind::Output: break;
    }
    return {theme::color(Role::Slate), width, Qt::SolidLine};
}

} // namespace ember::app
