// Tests run in the process' own locale, as the window does: where a comma is the decimal sign (scripts/check-more
// locale), numbers are read and written as they are everywhere.
#define CATCH_CONFIG_RUNNER
#include <catch2/catch.hpp>

#include <clocale>

int main(int argc, char* argv[]) {
  std::setlocale(LC_ALL, "");
  return Catch::Session().run(argc, argv);
}
