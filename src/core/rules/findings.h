#pragma once
// What is wrong or nearly so, with the numbers, the reason and, where one exists, the edit that mends it.

#include "core/build/edit.h"
#include "core/catalogue/catalogue.h"
#include "core/plan/figures.h"
#include "core/quantity/quantity.h"

#include <optional>
#include <stop_token>

namespace ember::rules {

enum class Level { Note, Warn, Stop };

struct Finding {
    std::string id;      ///< stable: "capacitor-volts/c1"; waivers refer to it
    std::string station; ///< supply, bias
    Level level = Level::Warn;
    std::string title, text;
    std::optional<Edit> fix;
    bool waived = false;
    std::string waiverReason;
};

/// One without a fix yet.
Finding finding(const char* station, std::string id, Level level, std::string title, std::string text);

/// A figure of the supply against its limit: nothing below nine tenths of it, a stop above it. `why` closes the text.
void againstLimit(std::vector<Finding>& out, std::string id, const std::string& what, double value, double most,
                  Unit unit, const std::string& why, std::optional<Edit> fix = {});

/// A resistor's heat [W] against its rating: half of it is the ceiling, past it is a stop; the fix sets the rating at
/// `pointer`. `what` runs hot.
void againstWatts(std::vector<Finding>& out, std::string id, const std::string& what, double used, double rated,
                  const std::string& pointer);

/// A valve's figure against its published limit: nothing below 95 % of it, a stop above it. `tail` closes the text.
void againstValveLimit(std::vector<Finding>& out, std::string id, const std::string& what, double value, double most,
                       Unit unit, const std::string& tail);

/// Everything that the rules see, worst first; waived ones last.
std::vector<Finding> inspect(const Build& build, const Catalogue& catalogue, const plan::Figures& figures);

/// Leaves of each finding's mend only what mends: applied to a copy, solved anew and looked at with all rules, it may
/// bring no Stop that was not there, nor, for what was no Stop itself, a warning that was not there. Where it does, or
/// cannot be solved, it is not offered. Takes a solve for each mend [about 20 ms]; `stop` ends it early, and then none
/// is offered.
void tryMends(const Build& build, const Catalogue& catalogue, std::vector<Finding>& findings,
              std::stop_token stop = {});

/// One family of rules.
using Rule = void (*)(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
std::vector<Rule> allRules();

void ironRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void supplyRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void rectifierRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void supplyPartRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void fuseRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void oddPartRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void mainsRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void dischargeRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void outputRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void benchBoardRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void chassisRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void biasRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void heaterRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void heaterSupplyRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void stabilityRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void pathRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void wireRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void earthRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void boardRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void wirePathRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void towerRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void pathPartRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void biasPartRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void exchangeRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void coldMomentRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void capacitorRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);
void smallValveRules(const Build&, const Catalogue&, const plan::Figures&, std::vector<Finding>&);

} // namespace ember::rules
