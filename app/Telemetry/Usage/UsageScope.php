<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use Fulcrion\Core\Text\TypedDuration;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Http\Request;
use InvalidArgumentException;

/**
 * What use a page is about, as its address says it.
 */
final readonly class UsageScope
{
    public const DEFAULT = 'last 7 days';

    /**
     * @param  array<string, string>  $only value by field
     * @param  list<string>|null  $teams that whoever looks may see; null for all
     */
    private function __construct(
        public string $text,
        public Days $days,
        public Days $against,
        /** In words, what it is held against. */
        public string $againstText,
        public UsageMeasure $measure,
        public ?Cluster $cluster,
        public array $only,
        public ?string $complaint,
        public ?array $teams,
        /** Executions longer than this are counted; null for the measure itself. */
        public ?int $longerThanUs = null,
        public string $longerText = '',
    ) {
    }

    public static function of(Request $request, int $now): self
    {
        $said = static function (string $name) use ($request): string {
            $value = $request->query($name);

            return is_string($value) ? mb_substr(trim($value), 0, 190) : '';
        };
        [$text, $days, $complaint] = self::days($request, $now);
        // Days that only happen to lie so are no month anybody asked for.
        $isMonth = $days->isOfOneMonth() && preg_match('~ days?$~i', trim($text)) !== 1;
        $longer = null;
        if ($said('longer') !== '') {
            try {
                $longer = TypedDuration::us($said('longer'));
            } catch (InvalidArgumentException $error) {
                $complaint ??= $error->getMessage();
            }
        }
        $slug = $said('cluster');
        $only = [];
        foreach (UsageField::cases() as $field) {
            if (is_string($request->query($field->value))) {
                $only[$field->value] = $said($field->value) === $field->none() ? '' : $said($field->value);
            }
        }

        return new self(
            $text,
            $days,
            $isMonth ? $days->sameOfMonthBefore() : $days->before(),
            self::against($days, $isMonth),
            $longer !== null ? UsageMeasure::Executions : UsageMeasure::tryFrom($said('measure')) ?? UsageMeasure::Scanned,
            $slug === '' ? null : Cluster::query()->where('slug', $slug)->first(),
            $only,
            $complaint,
            UsageLimits::of(self::person($request)),
            $longer,
            $longer === null ? '' : $said('longer'),
        );
    }

    /**
     * The days an address asks for; those it would show otherwise where what it says is none, with what is wrong about it.
     *
     * @return array{string, Days, string|null}
     */
    public static function days(Request $request, int $now, string $default = self::DEFAULT): array
    {
        $text = $request->query('days');
        $text = is_string($text) && trim($text) !== '' ? mb_substr(trim($text), 0, 190) : $default;
        $shown = app(Calendar::class)->shown($now);
        try {
            return [$text, Days::parse($text, $shown), null];
        } catch (InvalidArgumentException $error) {
            return [$default, Days::parse($default, $shown), $error->getMessage()];
        }
    }

    /**
     * Of whole days, without an address.
     *
     * @param  array<string, string>  $only value by field
     * @param  list<string>|null  $teams
     */
    public static function within(
        Days $days,
        UsageMeasure $measure,
        ?Cluster $cluster = null,
        array $only = [],
        ?array $teams = null,
    ): self {
        $isMonth = $days->isOfOneMonth();

        return new self(
            $days->text(),
            $days,
            $isMonth ? $days->sameOfMonthBefore() : $days->before(),
            self::against($days, $isMonth),
            $measure,
            $cluster,
            $only,
            null,
            $teams,
        );
    }

    private static function against(Days $days, bool $isMonth): string
    {
        return match (true) {
            $isMonth => 'the same days of the month before',
            $days->count() === 1 => 'the day before',
            default => "the {$days->count()} days before",
        };
    }

    private static function person(Request $request): ?User
    {
        $user = $request->user();

        return $user instanceof User ? $user : null;
    }

    /**
     * @param  array<string, string|null>  $other
     * @return array<string, string> for an address
     */
    public function query(array $other = []): array
    {
        $own = [
            'days' => $this->text, 'measure' => $this->measure->value, 'cluster' => $this->cluster->slug ?? '',
            'longer' => $this->longerText,
        ] + $this->only;

        return array_filter([...$own, ...$other], static fn (?string $value): bool => $value !== null && $value !== '');
    }
}
