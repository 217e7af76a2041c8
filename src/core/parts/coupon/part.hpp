// The test coupon: a strip of scrap that says what this shop's cutters really leave.
#pragma once

#include "core/document/project.hpp"
#include "core/job/part.hpp"

namespace wren {

struct CouponNumbers {
  static constexpr const char* part = "coupon";
  double thickness = 12;  // of the scrap, measured
  std::string wood = "yellow-poplar";
  double pocket = 20;  // width of the pocket for the fit of the heel
  friend bool operator==(const CouponNumbers&, const CouponNumbers&) = default;
};

[[nodiscard]] inline const CouponNumbers& coupon_of(const Project& p) { return p.parts.of<CouponNumbers>(); }
[[nodiscard]] inline CouponNumbers& coupon_of(Project& p) { return p.parts.of<CouponNumbers>(); }

[[nodiscard]] PartKind coupon_part();

}  // namespace wren
