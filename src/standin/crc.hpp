// CRC-32 of ISO 3309 (reflected polynomial EDB88320, begun and ended with all ones), as the machine works it out.
#pragma once

#include <array>
#include <cstdint>
#include <string_view>

namespace standin {

[[nodiscard]] inline std::uint32_t crc32(std::string_view bytes) {
  static const auto table = [] {
    std::array<std::uint32_t, 256> t{};
    for (std::uint32_t n = 0; n < 256; ++n) {
      std::uint32_t c = n;
      for (int k = 0; k < 8; ++k) c = (c & 1U) != 0 ? 0xEDB88320U ^ (c >> 1U) : c >> 1U;
      t[n] = c;
    }
    return t;
  }();
  std::uint32_t c = 0xFFFFFFFFU;
  for (const char b : bytes) c = table[(c ^ static_cast<unsigned char>(b)) & 0xFFU] ^ (c >> 8U);
  return c ^ 0xFFFFFFFFU;
}

}  // namespace standin
