// Every file of the fuzzers' corpus, through its target: what was found once stays found, in every build.
#include <chrono>
#include <filesystem>
#include <fstream>
#include <sstream>

#include <catch2/catch.hpp>

#include "fuzz/targets.hpp"

using namespace wren::fuzz;

TEST_CASE("the fuzzers' corpus, file by file") {
  for (const Target& target : targets()) {
    std::size_t files = 0;
    for (const auto& file : std::filesystem::directory_iterator(std::filesystem::path(WREN_CORPUS) / target.name)) {
      std::ostringstream text;
      text << std::ifstream(file.path(), std::ios::binary).rdbuf();
      INFO(file.path().string());
      const auto before = std::chrono::steady_clock::now();
      CHECK_NOTHROW(target.run(text.str()));
      CHECK(std::chrono::steady_clock::now() - before < std::chrono::seconds(10));
      ++files;
    }
    INFO(target.name);
    CHECK(files >= 5);
  }
}
