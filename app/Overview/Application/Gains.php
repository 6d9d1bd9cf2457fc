<?php

declare(strict_types=1);

namespace App\Overview\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Findings\Causes;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Findings\FindingState;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\SubjectKind;
use App\Ledger\Findings\Worth;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\ProofRecord;
use App\Ledger\Proofs\Promise;
use App\Platform\Support\Sql;
use Fulcrion\Core\Cost\Rates;
use Illuminate\Support\Facades\DB;

/**
 * What each object is worth: by its findings, by changes that were rehearsed, and by proofs of the last four weeks.
 */
final readonly class Gains
{
    /** Objects with a bar of their own. */
    private const SHOWN = 7;

    private const PROVEN_US = 28 * 86_400_000_000;

    private const HOUR_US = 3.6e9;

    private const WEEK_DAYS = 7;

    public function __construct(private Promise $promise, private Worth $worth, private Causes $causes)
    {
    }

    /**
     * In money where price books tell it in one currency, else in hours of statements in flight.
     *
     * @return array{list<Gain>, string, int} the most that is still to be gained first, the last one those that have no bar of their own;
     *     the currency, empty for hours; and how many objects have no place on that axis
     */
    public function all(int $nowUs): array
    {
        $objects = $this->found();
        foreach ($this->changes($nowUs) as [$change, $proof]) {
            $key = "{$change->cluster_id}|{$change->object}";
            $objects[$key] ??= new ObjectGain($change->cluster, $change->object);
            $objects[$key]->promised($change, $proof, $this->promise->byStatement($proof) ?? []);
            if ($change->state === ChangeState::Applied) {
                $objects[$key]->broke($change, self::brokenUs($change, $proof));
            }
        }
        $currency = $this->currency($objects);
        $weighed = array_filter($objects, static fn (ObjectGain $one): bool => $one->isWeighed());
        $drawn = array_filter($weighed, fn (ObjectGain $one): bool => $one->brokenUs !== null || $this->gain($one, $currency)->all() > 0);
        $left = count($weighed) - count($drawn);
        $several = count(self::clusters($drawn)) > 1;
        $gains = array_values(array_map(fn (ObjectGain $one): Gain => $this->gain($one, $currency, $several), $drawn));
        usort($gains, static fn (Gain $a, Gain $b): int => [$b->brokenUs !== null, $b->open(), $b->proven, $a->name]
            <=> [$a->brokenUs !== null, $a->open(), $a->proven, $b->name]);

        return [self::folded($gains), $currency, $left];
    }

    /**
     * @return array<string, ObjectGain> of findings that wait
     */
    private function found(): array
    {
        $findings = Finding::waiting()->with('cluster')->get();
        $statements = [];
        foreach (DB::table('finding_statements')->whereIn('finding_id', $findings->modelKeys())->get() as $row) {
            $statements[(int) $row->finding_id][(string) $row->fingerprint] = (float) $row->weight_us;
        }
        $causes = $this->causes->of($findings);
        $objects = [];
        foreach ($findings as $finding) {
            $subject = $finding->subject();
            $key = "{$finding->cluster_id}|".($subject->name === '' ? $subject->key() : $subject->name);
            $objects[$key] ??= new ObjectGain($finding->cluster, self::name($finding, $subject));
            // What comes of another finding is gained with that one.
            $objects[$key]->found($finding, $statements[$finding->id] ?? [], 1 - ($causes[$finding->id]->share ?? 0.0));
        }

        return $objects;
    }

    private static function name(Finding $finding, FindingSubject $subject): string
    {
        $text = $subject->kind === SubjectKind::Statement
            ? Evidence::values($finding->evidence, EvidenceKind::Statement)[0] ?? null : null;

        return $text === null ? $subject->shown() : Sql::line($text, 60);
    }

    /**
     * @return iterable<array{Change, ProofRecord}> those that are rehearsed, or were applied in the last weeks
     */
    private function changes(int $nowUs): iterable
    {
        $changes = Change::query()
            ->with(['cluster', 'finding'])
            ->where(static fn ($query) => $query
                ->whereIn('state', [ChangeState::Rehearsed->value, ChangeState::Approved->value])
                ->orWhere(static fn ($query) => $query
                    ->where('state', ChangeState::Applied->value)
                    ->where('applied_us', '>=', $nowUs - self::PROVEN_US)))
            ->orderBy('id')
            ->get();
        foreach ($changes as $change) {
            $proof = $change->latestProof($change->state === ChangeState::Applied ? 'applied' : 'rehearsal');
            if ($proof !== null) {
                yield [$change, $proof->setRelation('change', $change)];
            }
        }
    }

    private static function brokenUs(Change $change, ProofRecord $proof): ?int
    {
        $finding = $change->finding;

        return match (true) {
            ! $proof->holds => $proof->made_us,
            // What was solved by it is there again.
            $finding?->state === FindingState::Open && $finding->changed_us > $change->applied_us => $finding->changed_us,
            default => null,
        };
    }

    /**
     * @param  array<string, ObjectGain>  $objects
     * @return array<int, Cluster>
     */
    private static function clusters(array $objects): array
    {
        $clusters = [];
        foreach ($objects as $one) {
            $clusters[$one->cluster->id] = $one->cluster;
        }

        return $clusters;
    }

    /**
     * @param  array<string, ObjectGain>  $objects
     */
    private function currency(array $objects): string
    {
        $currencies = [];
        foreach (self::clusters(array_filter($objects, static fn (ObjectGain $one): bool => $one->queryUs() > 0)) as $cluster) {
            if ($this->worth->ofSaved($cluster, self::HOUR_US) !== null) {
                $currencies[$this->worth->currency($cluster)] = true;
            }
        }

        return count($currencies) === 1 ? (string) array_key_first($currencies) : '';
    }

    private function gain(ObjectGain $one, string $currency, bool $namesCluster = false): Gain
    {
        $isMoney = $currency !== '' && $this->worth->currency($one->cluster) === $currency;
        $amount = fn (float $us): float => match (true) {
            $currency === '' => $us / self::HOUR_US * (float) Rates::MONTH_DAYS / self::WEEK_DAYS,
            $isMoney => $this->worth->ofSaved($one->cluster, $us)?->toFloat() ?? 0.0,
            default => 0.0,
        };
        $other = 0.0;
        foreach ($isMoney ? $one->otherwise : [] as $finding) {
            $other += $this->worth->ofFinding($finding)?->toFloat() ?? 0.0;
        }

        return new Gain(
            $one->name.($namesCluster ? ", {$one->cluster->name}" : ''),
            $amount(max(0.0, $one->queryUs() - $one->rehearsedUs())) + $other,
            $amount($one->rehearsedUs()),
            $amount($one->provenUs),
            $one->brokenUs,
            $one->links(),
        );
    }

    /**
     * @param  list<Gain>  $gains
     * @return list<Gain>
     */
    private static function folded(array $gains): array
    {
        if (count($gains) <= self::SHOWN + 1) {
            return $gains;
        }
        $rest = array_slice($gains, self::SHOWN);

        return [...array_slice($gains, 0, self::SHOWN), new Gain(
            count($rest).' more',
            array_sum(array_map(static fn (Gain $one): float => $one->possible, $rest)),
            array_sum(array_map(static fn (Gain $one): float => $one->rehearsed, $rest)),
            array_sum(array_map(static fn (Gain $one): float => $one->proven, $rest)),
            null,
            ['possible' => address('finding.index'), 'rehearsed' => address('change.index'), 'proven' => address('change.index'),
                'broken' => ''],
        )];
    }
}
