// Writes docs/build.schema.json anew. Usage: write-schema FILE
#include "core/build/schema.h"
#include "core/build/storage.h"

#include <nlohmann/json.hpp>

int main(int argc, char** argv) {
    return argc == 2 && ember::saveText(ember::buildSchema().dump(2) + "\n", argv[1]) ? 0 : 2;
}
