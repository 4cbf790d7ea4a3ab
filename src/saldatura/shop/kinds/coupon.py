"""A weld coupon."""

from saldatura.ledger.kind import Kind
from saldatura.shop.coupons import CouponFact, NewCoupon

KIND = Kind("coupon", CouponFact, NewCoupon, subject="shop")
