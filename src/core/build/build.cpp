// Copying and destroying structures with many members, compiled once here and not in every file that copies one.
#include "build.h"

namespace ember {

double Fuse::breakingAmps() const {
    switch (breaking) {
    case Breaking::Low: return std::max(35.0, 10 * amps);
    case Breaking::Enhanced: return 150;
    case Breaking::High: break;
    }
    return 1500;
}

double hottestSpot(InsulationClass insulation) {
    constexpr std::array celsius{105.0, 120.0, 130.0, 155.0, 180.0};
    return celsius[static_cast<std::size_t>(insulation)];
}

double ratedVoltAmperes(const PowerTransformer& t, Connection connection) {
    double va = (connection == Connection::CentreTapped ? 2 : 1) * t.plateVolts * t.plateAmps;
    for (const HeaterWinding& w : t.heaters) va += w.volts * w.amps;
    return va;
}

Stage::Stage() = default;
Stage::Stage(const Stage&) = default;
Stage::Stage(Stage&&) noexcept = default;
Stage& Stage::operator=(const Stage&) = default;
Stage& Stage::operator=(Stage&&) noexcept = default;
Stage::~Stage() = default;

OwnType::OwnType() = default;
OwnType::OwnType(const OwnType&) = default;
OwnType::OwnType(OwnType&&) noexcept = default;
OwnType& OwnType::operator=(const OwnType&) = default;
OwnType& OwnType::operator=(OwnType&&) noexcept = default;
OwnType::~OwnType() = default;

Channel::Channel() = default;
Channel::Channel(const Channel&) = default;
Channel::Channel(Channel&&) noexcept = default;
Channel& Channel::operator=(const Channel&) = default;
Channel& Channel::operator=(Channel&&) noexcept = default;
Channel::~Channel() = default;

HeaterWinding::HeaterWinding() = default;
HeaterWinding::HeaterWinding(const HeaterWinding&) = default;
HeaterWinding::HeaterWinding(HeaterWinding&&) noexcept = default;
HeaterWinding& HeaterWinding::operator=(const HeaterWinding&) = default;
HeaterWinding& HeaterWinding::operator=(HeaterWinding&&) noexcept = default;
HeaterWinding::~HeaterWinding() = default;

PowerTransformer::PowerTransformer() = default;
PowerTransformer::PowerTransformer(const PowerTransformer&) = default;
PowerTransformer::PowerTransformer(PowerTransformer&&) noexcept = default;
PowerTransformer& PowerTransformer::operator=(const PowerTransformer&) = default;
PowerTransformer& PowerTransformer::operator=(PowerTransformer&&) noexcept = default;
PowerTransformer::~PowerTransformer() = default;

Section::Section() = default;
Section::Section(const Section&) = default;
Section::Section(Section&&) noexcept = default;
Section& Section::operator=(const Section&) = default;
Section& Section::operator=(Section&&) noexcept = default;
Section::~Section() = default;

LogEntry::LogEntry() = default;
LogEntry::LogEntry(const LogEntry&) = default;
LogEntry::LogEntry(LogEntry&&) noexcept = default;
LogEntry& LogEntry::operator=(const LogEntry&) = default;
LogEntry& LogEntry::operator=(LogEntry&&) noexcept = default;
LogEntry::~LogEntry() = default;

PlacedPart::PlacedPart() = default;
PlacedPart::PlacedPart(const PlacedPart&) = default;
PlacedPart::PlacedPart(PlacedPart&&) noexcept = default;
PlacedPart& PlacedPart::operator=(const PlacedPart&) = default;
PlacedPart& PlacedPart::operator=(PlacedPart&&) noexcept = default;
PlacedPart::~PlacedPart() = default;

Chassis::Chassis() = default;
Chassis::Chassis(const Chassis&) = default;
Chassis::Chassis(Chassis&&) noexcept = default;
Chassis& Chassis::operator=(const Chassis&) = default;
Chassis& Chassis::operator=(Chassis&&) noexcept = default;
Chassis::~Chassis() = default;

Build::Build() = default;
Build::Build(const Build&) = default;
Build::Build(Build&&) noexcept = default;
Build& Build::operator=(const Build&) = default;
Build& Build::operator=(Build&&) noexcept = default;
Build::~Build() = default;

} // namespace ember
