// One target for libFuzzer: WREN_FUZZ_TARGET says which. docs/fuzzing.md tells how it is run.
#include <cstdint>
#include <cstring>

#include "fuzz/targets.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const auto run = [] {
    for (const wren::fuzz::Target& t : wren::fuzz::targets())
      if (std::strcmp(t.name, WREN_FUZZ_TARGET) == 0) return t.run;
    throw wren::fuzz::Broken("there is no such target");
  }();
  run({reinterpret_cast<const char*>(data), size});
  return 0;
}
