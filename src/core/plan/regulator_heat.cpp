#include "regulator_heat.h"

namespace ember::plan {

double junctionOnBoard(const HeaterDc& dc, double watts, double ambient) {
    return ambient + watts * dc.junctionAir;
}
double junctionOnSink(const HeaterDc& dc, double watts, double ambient) {
    return ambient + watts * (dc.junctionCase + dc.caseSink + dc.sink);
}
double junctionOnMetal(const HeaterDc& dc, double watts, double metal) {
    return metal + watts * (dc.junctionCase + dc.caseSink);
}
double sinkNeeded(const HeaterDc& dc, double watts, double ambient) {
    return (dc.mostKelvin - ambient) / watts - dc.junctionCase - dc.caseSink;
}

} // namespace ember::plan
