"""What makers read: why things are so, where schools differ, how to stay safe. Words are in the catalogue of messages."""

from sapolin.core.guide.pages import GuidePage, guide_pages
from sapolin.core.guide.safety import SafetySection, safety_sheet
from sapolin.core.guide.schools import SchoolQuestion, Schools, school_questions

__all__ = ["GuidePage", "SafetySection", "SchoolQuestion", "Schools", "guide_pages", "safety_sheet", "school_questions"]
