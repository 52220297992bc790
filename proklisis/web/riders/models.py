"""A rider of a club."""

from __future__ import annotations

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from proklisis.web.clubs.models import Club, OneUse, Place, new_token

LEVELS = [
    ("novice", "Novice"),
    ("intermediate", "Intermediate"),
    ("advanced", "Advanced"),
    ("elite", "Elite"),
]
ADULT = 18


class Agreed(models.TextChoices):
    """What somebody may agree to, or not, each for itself."""

    ANALYSE = "analyse", "Clips are judged"
    SHARE = "share", "The answer is shared with the rider"
    GROUP = "group", "Clips are shown to other riders"
    REFERENCE = "reference", "A run is kept as a reference"


class Rider(models.Model):
    """Who is filmed. Name, number and colours stay on every screen that shows them."""

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="riders")
    name = models.CharField(max_length=120)
    number = models.PositiveSmallIntegerField(null=True, blank=True)
    colours = models.CharField(
        max_length=120, blank=True, help_text="what they wear, to tell riders apart"
    )
    level = models.CharField(max_length=12, choices=LEVELS, default="intermediate")
    born = models.PositiveSmallIntegerField(
        null=True,
        blank=True,
        validators=[MinValueValidator(1910), MaxValueValidator(2100)],
        help_text="year",
    )
    height_cm = models.FloatField(
        null=True, blank=True, validators=[MinValueValidator(60), MaxValueValidator(250)]
    )
    stance = models.CharField(
        max_length=8, blank=True, choices=[("regular", "Regular"), ("goofy", "Goofy")]
    )
    guardian_consent = models.BooleanField(
        default=False, help_text="a guardian allows clips to be shared"
    )
    agreed = models.JSONField(
        default=dict, blank=True, help_text="kind of consent → the last word on it"
    )
    schools = models.JSONField(
        default=dict, blank=True, help_text="discipline → question → what this rider is judged by"
    )
    free = models.JSONField(
        null=True, blank=True, help_text="when they can practise; null: nobody has said"
    )
    practises_at = models.ForeignKey(
        Place, on_delete=models.SET_NULL, null=True, blank=True, related_name="riders"
    )
    asked_to_erase = models.DateTimeField(
        null=True,
        blank=True,
        help_text="the rider, or a guardian, asked for everything to be erased",
    )
    added = models.DateTimeField(auto_now_add=True)
    removed_at = models.DateTimeField(
        null=True, blank=True, help_text="taken off the lists; it can be brought back for a month"
    )

    class Meta:
        ordering = ["name", "id"]
        constraints = [
            models.UniqueConstraint(
                fields=["club", "number"],
                condition=models.Q(removed_at=None),
                name="one_number_per_club",
            )
        ]

    def __str__(self) -> str:
        return self.name

    def maybe_minor(self, year: int) -> bool:
        """True when the rider is, or may be, under eighteen in ``year``; an unknown birth year may be."""
        return self.born is None or year - self.born <= ADULT

    def may_be_shared(self, year: int) -> bool:
        """Whether clips may leave: an adult's unless they said no, a minor's with a guardian's consent."""
        if Agreed.ANALYSE in self.withdrawn or Agreed.SHARE in self.withdrawn:
            return False
        return self.guardian_consent or not self.maybe_minor(year)

    @property
    def withdrawn(self) -> set[str]:
        """The kinds that somebody has said no to."""
        return {kind for kind, given in self.agreed.items() if given is False}

    @property
    def may_be_judged(self) -> bool:
        """Whether clips may be followed and judged: until somebody says no."""
        return Agreed.ANALYSE not in self.withdrawn

    def agrees_to(self, kind: Agreed) -> bool:
        """Whether somebody has said yes to what nobody may take for granted: showing to others, keeping as a reference."""
        return self.may_be_judged and self.agreed.get(kind) is True

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return {"club": self.club_id, "rider": self.pk}


class Whose(models.TextChoices):
    """Who sees a rider's own page."""

    RIDER = "rider", "Rider"
    GUARDIAN = "guardian", "Guardian"


class RiderAccount(models.Model):
    """Somebody who logs in to a rider's own page: the rider, or a guardian."""

    user = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="rider_accounts"
    )
    rider = models.ForeignKey(Rider, on_delete=models.CASCADE, related_name="accounts")
    kind = models.CharField(max_length=8, choices=Whose)
    since = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(
                fields=["user", "rider"],
                condition=models.Q(ended_at=None),
                name="one_account_a_rider",
            )
        ]

    def __str__(self) -> str:
        return f"{self.kind} of {self.rider}"

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return self.rider.get_additional_data()

    def speaks(self, year: int) -> bool:
        """Whether this person's word counts: a guardian's while the rider is, or may be, a minor, and the rider's own after."""
        return (self.kind == Whose.GUARDIAN) == self.rider.maybe_minor(year)


class RiderCalendarLink(models.Model):
    """The private address of a calendar with the rider's sessions; it ends with the account that made it."""

    account = models.OneToOneField(
        RiderAccount, on_delete=models.CASCADE, related_name="calendar_link"
    )
    token = models.CharField(max_length=40, unique=True, default=new_token)
    made = models.DateTimeField(auto_now_add=True)


class RiderInvitation(OneUse):
    """A link by which a rider or a guardian comes to their own page."""

    rider = models.ForeignKey(Rider, on_delete=models.CASCADE, related_name="invitations")
    kind = models.CharField(max_length=8, choices=Whose)

    def __str__(self) -> str:
        return f"invitation of {self.rider}, {self.kind}"

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return self.rider.get_additional_data()


class Consent(models.Model):
    """A consent as it was noted or withdrawn: of which kind, who noted it, and when. Rows are only added."""

    rider = models.ForeignKey(Rider, on_delete=models.CASCADE, related_name="consents")
    kind = models.CharField(max_length=10, choices=Agreed, default=Agreed.SHARE)
    given = models.BooleanField()
    person = models.CharField(
        max_length=120, blank=True, help_text="who agreed, where they said so themselves"
    )
    text = models.CharField(
        max_length=20, blank=True, help_text="the version of what they agreed to"
    )
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"consent for {self.rider}"

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return {"club": self.rider.club_id, "rider": self.rider_id}
