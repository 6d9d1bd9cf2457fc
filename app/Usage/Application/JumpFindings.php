<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\SubjectKind;
use App\Ledger\Findings\Weight;
use App\Ledger\Findings\WeightUnit;
use App\Ledger\Models\Finding;
use App\Telemetry\Usage\Amount;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Telemetry\Usage\UsageSeries;
use Fulcrion\Core\Forecast\DailySeries;
use Fulcrion\Core\Forecast\Jump;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Fulcrion\Core\Usage\Used;

/**
 * Teams, people and applications that suddenly use far more than on the same days of the weeks before, and what of them does. As long as
 * it goes on it is one finding; when it has become usual it is none.
 */
final readonly class JumpFindings
{
    public const SOURCE = 'usage';

    /** Less more than usual, as a part of what the cluster did on these days, is nobody's concern. */
    private const LEAST_PART = 0.03;

    /** Days that are looked at. */
    private const DAYS = 91;

    /** What is so near in size to a jump that is told already is the same one. */
    private const SAME = 0.5;

    /** Weeks what statements usually have is read from. */
    private const BEFORE_WEEKS = 4;

    private const STATEMENTS = 3;

    /** Evidence that says at which amount a limit would have held it. */
    private const LIMIT = 'a limit that would hold it';

    /** Of a usual week. */
    private const LIMIT_SHARE = 1.25;

    /** A smaller part of what is more is not named. */
    private const LEAST_CONTRIBUTION = 0.05;

    public function __construct(
        private UsageSeries $series,
        private UsageReader $reader,
        private Findings $findings,
        private Calendar $calendar,
    ) {
    }

    public function report(Cluster $cluster, int $now): void
    {
        $reported = [];
        $told = [];
        // A statement is told where it is not what somebody's jump consists of.
        foreach ([UsageField::Team, UsageField::Person, UsageField::Application, UsageField::Statement] as $field) {
            foreach ([UsageMeasure::Scanned, UsageMeasure::InFlight] as $measure) {
                foreach ($this->jumps($cluster, $field, $measure, $now) as $value => $jump) {
                    $extra = $jump->had - $jump->usual;
                    $isTold = isset($reported["{$field->value} {$value}"]) || array_filter(
                        $told[$measure->value] ?? [],
                        static fn (float $one): bool => abs($one - $extra) <= self::SAME * max($one, $extra),
                    ) !== [];
                    $told[$measure->value][] = $extra;
                    if (! $isTold) {
                        $reported["{$field->value} {$value}"] = $this->reported($cluster, $field, (string) $value, $measure, $jump, $now);
                    }
                }
            }
        }
        $this->findings->reconcile($cluster, self::SOURCE, array_values($reported));
    }

    /**
     * @return array<string, Jump> by value of the field, the largest first
     */
    private function jumps(Cluster $cluster, UsageField $field, UsageMeasure $measure, int $now): array
    {
        $today = $this->calendar->day($now);
        $scope = UsageScope::within(new Days($today - Days::DAY, $today), $measure, $cluster);
        $recent = static fn (DailySeries $one): float => array_sum(array_slice($one->values, -2));
        if ($field === UsageField::Statement) {
            [$all, $least] = $this->statements($scope, $today, $now);
        } else {
            $all = $this->series->by($field, $scope, $now, self::DAYS);
            $least = self::LEAST_PART * array_sum(array_map($recent, $all));
        }
        $jumps = [];
        foreach ($all as $value => $series) {
            $jump = $recent($series) > $least && $least > 0 ? Jump::atEnd($series) : null;
            if ($jump !== null && $jump->had - $jump->usual > $least) {
                $jumps[(string) $value] = $jump;
            }
        }
        uasort($jumps, static fn (Jump $a, Jump $b): int => $b->had - $b->usual <=> $a->had - $a->usual);

        return $jumps;
    }

    /**
     * Series of those that had most lately: of all of them there may be very many.
     *
     * @return array{array<string, DailySeries>, float} by fingerprint, and what they had at least in the last two days
     */
    private function statements(UsageScope $scope, int $today, int $now): array
    {
        $used = $this->reader->by(UsageField::Statement, $scope, new Days($today - 2 * Days::DAY, $today));
        $least = self::LEAST_PART * array_sum(array_map(static fn (Used $one): int => $one->amount, $used));
        $many = array_filter($used, static fn (Used $one): bool => $one->amount > $least);

        return [$this->series->ofStatements(array_map(strval(...), array_keys($many)), $scope, $now, self::DAYS), $least];
    }

    private function reported(
        Cluster $cluster,
        UsageField $field,
        string $value,
        UsageMeasure $measure,
        Jump $jump,
        int $now,
    ): Reported {
        $today = $this->calendar->day($now);
        $days = new Days($today - $jump->days * Days::DAY, $today);
        $scope = UsageScope::within($days, $measure, $cluster, [$field->value => $value]);
        $times = $jump->times();
        $said = $times === null ? 'and usually nothing' : Quantity::digits($times).' times as much as usual';
        $what = Amount::of($measure, $jump->had)." of {$measure->label()}";

        $subject = match ($field) {
            UsageField::Person => FindingSubject::account($value),
            UsageField::Statement => FindingSubject::statement($value),
            default => FindingSubject::item("{$field->label()} {$value}"),
        };

        return new Reported(
            $jump->days === 1 ? 'usage-spike' : 'usage-step',
            $subject,
            Severity::Watch,
            ucfirst($field === UsageField::Statement ? $subject->shown() : "{$field->label()} {$value}").
                " had {$what} on {$days->describe()}, {$said}",
            [
                new Evidence('usual', Amount::of($measure, $jump->usual).' on the same days of the week, median of the weeks before'),
                ...($field === UsageField::Statement ? $this->senders($value, $scope, $days)
                    : $this->contributions($scope, $measure, $jump, $days)),
                new Evidence(self::LIMIT, self::typed($measure, $this->usualWeek($scope, $days) * self::LIMIT_SHARE).' a week, a quarter '
                    .'above what the week before had'),
                Evidence::remedy('Ask whether that is wanted. If it stays, set a budget or look at its statements.'),
            ],
            $measure === UsageMeasure::InFlight && $jump->days > 1
                ? Weight::of(($jump->had - $jump->usual) * 7 / $jump->days, WeightUnit::QueryTime) : Weight::none(),
            '',
        );
    }

    /**
     * @return list<Evidence> the statement, and who has most of it
     */
    private function senders(string $statement, UsageScope $scope, Days $days): array
    {
        $used = $this->reader->by(UsageField::Person, $scope, $days);
        uasort($used, static fn (Used $a, Used $b): int => $b->amount <=> $a->amount);
        $names = array_map(strval(...), array_keys(array_slice($used, 0, self::STATEMENTS, true)));

        return [
            new Evidence(substr($statement, 0, 8), $this->reader->texts([$statement])[$statement] ?? '', EvidenceKind::Statement),
            new Evidence('sent by', implode(', ', $names)),
        ];
    }

    private function usualWeek(UsageScope $scope, Days $days): int
    {
        return $this->reader->totals($scope, new Days($days->from - Days::WEEK, $days->from))[$scope->measure->value];
    }

    /** As it is typed: two digits at most are needed. */
    private static function typed(UsageMeasure $measure, float $amount): string
    {
        $units = $measure->isBytes() ? ['TiB' => 1024 ** 4, 'GiB' => 1024 ** 3, 'MiB' => 1024 ** 2, 'B' => 1]
            : ['h' => 3_600_000_000, 'min' => 60_000_000, 's' => 1_000_000, 'ms' => 1_000];
        foreach ($units as $unit => $size) {
            if ($amount >= 2 * $size) {
                return (int) round($amount / $size)." {$unit}";
            }
        }

        return '1 '.array_key_last($units);
    }

    /**
     * What a form for a limit is filled with, so that what goes beyond the usual is held; null for a statement, which is nobody's.
     *
     * @return array<string, string>|null for an address
     */
    public static function limit(Finding $finding): ?array
    {
        $subject = $finding->subject();
        if ($subject->kind === SubjectKind::Statement) {
            return null;
        }
        $amount = '';
        foreach ($finding->evidence as $one) {
            $amount = $one->label === self::LIMIT ? (string) strstr($one->value, ' a week', true) : $amount;
        }

        return [
            'of' => ($subject->kind === SubjectKind::Account ? 'person ' : '').$subject->name,
            'measure' => str_ends_with($amount, 'B') ? 'bytes' : 'time', 'period' => 'week', 'amount' => $amount,
        ];
    }

    /**
     * The statements that have most more than on the same days of the weeks before.
     *
     * @return list<Evidence>
     */
    private function contributions(UsageScope $scope, UsageMeasure $measure, Jump $jump, Days $days): array
    {
        $before = [];
        for ($week = 1; $week <= self::BEFORE_WEEKS; $week++) {
            $then = new Days($days->from - $week * Days::WEEK, $days->to - $week * Days::WEEK);
            foreach ($this->reader->by(UsageField::Statement, $scope, $then) as $statement => $used) {
                $before[$statement] = ($before[$statement] ?? 0.0) + $used->amount / self::BEFORE_WEEKS;
            }
        }
        $more = $had = [];
        foreach ($this->reader->by(UsageField::Statement, $scope, $days) as $statement => $used) {
            $usual = $before[$statement] ?? 0.0;
            $more[$statement] = $used->amount - $usual;
            $had[$statement] = [$used->amount, $usual];
        }
        arsort($more);
        $least = self::LEAST_CONTRIBUTION * ($jump->had - $jump->usual);
        $first = array_slice(array_filter($more, static fn (float $one): bool => $one > $least), 0, self::STATEMENTS, true);
        $texts = $this->reader->texts(array_map(strval(...), array_keys($first)));
        $evidence = [];
        foreach (array_keys($first) as $statement) {
            [$now, $usual] = $had[$statement];
            $evidence[] = new Evidence(substr((string) $statement, 0, 8), Amount::of($measure, $now).', usually '.
                Amount::of($measure, $usual));
            $evidence[] = new Evidence(substr((string) $statement, 0, 8), $texts[$statement] ?? '', EvidenceKind::Statement);
        }

        return $evidence;
    }
}
