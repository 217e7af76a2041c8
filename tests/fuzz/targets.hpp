// What is fuzzed: each reader of something from outside, with what has to be true of whatever it accepts. A broken
// promise throws Broken; crashes, hangs and memory are the fuzzer's to find.
#pragma once

#include <stdexcept>
#include <string_view>
#include <vector>

namespace wren::fuzz {

struct Broken : std::logic_error {
  using std::logic_error::logic_error;
};

struct Target {
  const char* name;  // also of its folder in corpus/
  void (*run)(std::string_view bytes);
};
[[nodiscard]] const std::vector<Target>& targets();

}  // namespace wren::fuzz
