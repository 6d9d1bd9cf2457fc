<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Ledger\Changes\ChangeState;
use App\Ledger\Findings\Worth;
use App\Ledger\Models\Change;
use App\Ledger\Models\ProofRecord;
use App\Ledger\Proofs\Promise;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageBridge;
use Fulcrion\Core\Usage\UsageChange;
use Fulcrion\Core\Usage\UsageMeasure;
use Fulcrion\Core\Usage\Used;
use Illuminate\Database\Eloquent\Collection;

/**
 * Change by change, what its proof promised and what use since then shows was really saved.
 */
final readonly class Savings
{
    /** Days before a change that what statements took is read from. */
    private const BEFORE = 28;

    public function __construct(private UsageReader $reader, private Promise $promise, private Worth $worth, private Calendar $calendar)
    {
    }

    /**
     * @return list<Saved> the latest first; of changes that are applied or were undone since
     */
    public function all(int $now): array
    {
        /** @var Collection<int, Change> $changes */
        $changes = Change::query()
            ->with(['cluster', 'finding'])
            ->whereIn('state', [ChangeState::Applied->value, ChangeState::Undone->value])
            ->whereNotNull('applied_us')
            ->orderByDesc('applied_us')
            ->orderByDesc('id')
            ->get();

        $proofs = $statements = [];
        foreach ($changes as $change) {
            $proofs[$change->id] = $proof = self::proof($change);
            $statements[$change->id] = $proof?->body === 'time' ? array_map(strval(...), array_keys($proof->proof()->remaining())) : [];
        }

        return array_values($changes->map(fn (Change $change): Saved => $this->of(
            $change,
            $proofs[$change->id],
            $statements[$change->id],
            self::borders($change, $changes, $statements),
            $now,
        ))->all());
    }

    private static function proof(Change $change): ?ProofRecord
    {
        $applied = $change->latestProof('applied');
        $proof = $applied?->body === 'time' ? $applied : $change->latestProof('rehearsal') ?? $applied;

        return $proof?->setRelation('change', $change);
    }

    /**
     * When the same statements were changed otherwise: what another change saved is not this one's.
     *
     * @param  Collection<int, Change>  $changes
     * @param  array<int, list<string>>  $statements by change
     * @return list<int> Unix seconds
     */
    private static function borders(Change $change, Collection $changes, array $statements): array
    {
        $borders = [];
        foreach ($changes as $other) {
            if (
                $other->id !== $change->id && $other->cluster_id === $change->cluster_id
                && array_intersect($statements[$other->id], $statements[$change->id]) !== []
            ) {
                array_push($borders, intdiv((int) $other->applied_us, 1_000_000), ...$other->undone_us === null ? []
                    : [intdiv($other->undone_us, 1_000_000)]);
            }
        }

        return $borders;
    }

    /**
     * @param  list<string>  $statements
     * @param  list<int>  $borders
     */
    private function of(Change $change, ?ProofRecord $proof, array $statements, array $borders, int $now): Saved
    {
        $promised = $proof === null ? null : $this->promise->usPerWeek($proof);
        // By the days of the estate.
        $applied = $this->calendar->shown(intdiv((int) $change->applied_us, 1_000_000));
        $end = $this->calendar->shown($change->state === ChangeState::Undone ? intdiv((int) $change->undone_us, 1_000_000) : $now);
        $borders = array_map($this->calendar->shown(...), $borders);
        $since = self::since($applied, min([$end, ...array_filter($borders, static fn (int $at): bool => $at >= $applied)]));
        $before = self::before($applied, max([0, ...array_filter($borders, static fn (int $at): bool => $at < $applied)]));
        $bridge = $since === null || $before === null || $statements === [] ? null : UsageBridge::of(
            $this->used($change, $before, $statements),
            $this->used($change, $since, $statements),
        );
        $compared = $bridge === null ? 0 : count(array_filter(
            $bridge->changes,
            static fn (UsageChange $one): bool => $one->before->executions > 0 && $one->after->executions > 0,
        ));
        // As many executions as there were, each of what it took before, less what they took.
        $saved = $bridge === null || $since === null || $compared === 0 ? null : -$bridge->parts()['moreEach'] * 7 / $since->count();

        return new Saved(
            $change,
            $proof,
            $statements,
            $compared,
            $since?->count() ?? 0,
            $promised,
            $saved,
            $this->money($change, $promised),
            $this->money($change, $saved),
            $this->worth->currency($change->cluster),
        );
    }

    private function money(Change $change, ?float $usPerWeek): ?BigDecimal
    {
        return $usPerWeek === null ? null : $this->worth->ofSaved($change->cluster, $usPerWeek);
    }

    /** The whole days after that of the change, four weeks at most; null where there is none yet. */
    private static function since(int $applied, int $end): ?Days
    {
        $from = Days::start($applied) + Days::DAY;
        $to = min(Days::start($end), $from + self::BEFORE * Days::DAY);

        return $to <= $from ? null : new Days($from, $to);
    }

    /** The whole days before that of the change, after what changed the same statements last; null where there is none. */
    private static function before(int $applied, int $last): ?Days
    {
        $to = Days::start($applied);
        $from = max($to - self::BEFORE * Days::DAY, $last === 0 ? 0 : Days::start($last) + Days::DAY);

        return $to <= $from ? null : new Days($from, $to);
    }

    /**
     * @param  list<string>  $statements
     * @return array<string, Used> by fingerprint
     */
    private function used(Change $change, Days $days, array $statements): array
    {
        return $this->reader->ofStatements($statements, UsageScope::within($days, UsageMeasure::InFlight, $change->cluster), $days);
    }

    /**
     * @param  list<Saved>  $all
     * @return array{promised: BigDecimal, saved: BigDecimal, of: int, currency: string}|null of those in force whose saving is known in
     *     money of the first currency
     */
    public static function total(array $all): ?array
    {
        $known = array_values(array_filter(
            $all,
            static fn (Saved $one): bool => $one->isInForce() && $one->savedMoney !== null && $one->promisedMoney !== null,
        ));
        $currency = $known[0]->currency ?? '';
        $known = array_filter($known, static fn (Saved $one): bool => $one->currency === $currency);
        if ($known === []) {
            return null;
        }
        $zero = BigDecimal::zero()->toScale(2);

        return [
            'promised' => array_reduce($known, static fn ($sum, Saved $one) => $sum->plus($one->promisedMoney ?? $zero), $zero),
            'saved' => array_reduce($known, static fn ($sum, Saved $one) => $sum->plus($one->savedMoney ?? $zero), $zero),
            'of' => count($known),
            'currency' => $currency,
        ];
    }
}
