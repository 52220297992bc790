"""Skis, boards, poles, boats and masts from straight edges in the pictures, held to the body that uses them."""
