#pragma once
#include "build.h"

namespace ember {

/// The JSON schema (draft 7) of the file, from the same description that reads and writes it; kept in
/// docs/build.schema.json.
Json buildSchema();

} // namespace ember
