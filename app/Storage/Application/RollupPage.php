<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Estate\Rollups\LookupState;
use App\Estate\Rollups\RollupState;
use App\Platform\Figures\Figure;
use App\Platform\Support\Clock;
use App\Storage\Charts\SpaceFigure;
use App\Telemetry\Workload\Advisor;
use App\Telemetry\Workload\EstateReader;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\Lookups\LookupAdvisor;
use Fulcrion\Core\Storage\Lookups\LookupProposal;
use Fulcrion\Core\Storage\Rollups\RollupAdvice;
use Fulcrion\Core\Storage\Rollups\RollupAdvisor;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Text\Quantity;

/**
 * What is prepared on a cluster, what it is worth, and what would be worth preparing.
 */
final readonly class RollupPage
{
    private const DAYS = 14;

    /** Spaces a set is chosen for, of the bytes of the table. */
    private const STEPS = 24;

    /** Time a week from which a rollup is worth proposing. */
    private const LEAST_US = 1e7;

    /**
     * @param  list<RollupState>  $rollups
     * @param  list<LookupState>  $lookups
     * @param  array<string, float>  $tables modelled time a week statements that group each table take, most first
     * @param  list<RollupSet>  $sets
     * @param  list<LookupProposal>  $lookupProposals
     */
    private function __construct(
        public Cluster $cluster,
        public array $rollups,
        public array $lookups,
        public float $lookupBudget,
        public array $tables,
        public ?TableLayout $table,
        public ?RollupAdvice $advice,
        public array $sets,
        public int $shown,
        public array $lookupProposals,
    ) {
    }

    /**
     * @param  float|null  $space bytes of the modelled cluster; null for a quarter of the table
     *
     * @throws SourceError
     */
    public static function of(
        Cluster $cluster,
        Clusters $clusters,
        EstateReader $reader,
        ?string $wanted,
        ?float $space,
        float $keepBudgetUs,
    ): self {
        $source =
            $clusters->as(Actor::system(SystemActor::Audit, 'rollups and lookups and what they save'))->rollups($cluster) ??
            throw new SourceError("{$cluster->name} keeps no rollups and no lookups.");
        $layouts = $reader->layouts($cluster);
        $estate = $reader->estate($cluster, $layouts);
        $advisor = new RollupAdvisor($estate);
        $tables = [];
        foreach ($layouts as $name => $layout) {
            $sum = 0.0;
            foreach ($advisor->uses($layout)[0] as $use) {
                $sum += $use->executions * $use->readUs;
            }
            if ($sum > self::LEAST_US) {
                $tables[$name] = $sum;
            }
        }
        arsort($tables);
        $name = $wanted !== null && isset($layouts[$wanted]) ? $wanted : array_key_first($tables);
        $table = $name === null ? null : $layouts[$name];
        $layoutSource = $reader->source($cluster);
        $advice =
            $table === null || $layoutSource === null
                ? null
                : $advisor->of($table, $layoutSource->sample($table->name, Advisor::SAMPLE), 0.0);
        $sets = $table === null || $advice === null ? [] : self::sets($advice, $table, $keepBudgetUs);
        $budget = $space === null ? 0.25 * ($table?->bytes() ?? 0) : $space / max(1, $table->rowFactor ?? 1);
        $shown = 0;
        foreach ($sets as $i => $set) {
            $shown = $set->bytes() <= $budget ? $i : $shown;
        }

        return new self(
            $cluster,
            $source->rollups(),
            $source->lookups(),
            $source->lookupBudget(),
            $tables,
            $table,
            $advice,
            $sets,
            $shown,
            self::lookupsOf($estate, $layouts, $reader, $cluster),
        );
    }

    public function figure(): ?Figure
    {
        return count($this->sets) < 2 || $this->advice === null || $this->table === null
            ? null
            : SpaceFigure::draw($this->sets, $this->sets[$this->shown], (float) $this->table->rowFactor, $this->advice->nowUs());
    }

    public function sentence(): string
    {
        $day = $this->since();
        $uses = $saved = 0;
        foreach ([...$this->rollups, ...$this->lookups] as $one) {
            $uses += $one->since($day)['uses'];
            $saved += $one->since($day)['savedUs'];
        }
        $kept = count($this->rollups) + count($this->lookups);
        $more = $this->sets === [] ? null : $this->sets[$this->shown];
        $could =
            $more === null || $more->proposals === []
                ? ''
                : ', and '.
                    count($more->proposals).
                    ' more '.
                    (count($more->proposals) === 1 ? 'rollup' : 'rollups').
                    " of {$this->table?->name} would save ".
                    Quantity::duration($more->savedUs()).
                    ' a week (modelled)';

        return match (true) {
            $kept === 0 && $could === '' => "{$this->cluster->name} has no rollup or lookup, and none would save more than it costs",
            $kept === 0 => "{$this->cluster->name} has no rollup or lookup yet".
                str_replace(', and', ';', str_replace(' more ', ' ', $could)),
            default => ($kept === 1 ? 'One rollup or lookup' : "{$kept} rollups and lookups").
                ' of '.
                $this->cluster->name.
                ' served '.
                Quantity::count($uses).
                ' '.
                ($uses === 1 ? 'statement' : 'statements').
                ' in '.
                self::DAYS.
                ' days and saved '.
                Quantity::duration($saved).
                ' (modelled)'.
                $could,
        };
    }

    /** First of the days uses are told of. */
    public function since(): string
    {
        return gmdate('Y-m-d', Clock::seconds() - (self::DAYS - 1) * 86_400);
    }

    /** Why a rollup should go; empty where it pays. */
    public function idle(RollupState $rollup): string
    {
        $sum = $rollup->since($this->since());
        if (Clock::microseconds() - $rollup->createdUs < 2 * 86_400_000_000) {
            return '';
        }

        return match (true) {
            $sum['uses'] === 0 => 'nobody used it in '.self::DAYS.' days',
            $sum['savedUs'] < $sum['keptUs'] => 'keeping it took '.Quantity::duration($sum['keptUs']).', more than it saved',
            default => '',
        };
    }

    public function lookupBytes(): float
    {
        return array_sum(array_map(static fn (LookupState $one): float => $one->bytes, $this->lookups));
    }

    /**
     * @return list<RollupSet> those that differ, smallest first; the first is none at all
     */
    private static function sets(RollupAdvice $advice, TableLayout $table, float $keepBudgetUs): array
    {
        $sets = ['' => new RollupSet(0.0, [])];
        for ($i = 0; $i <= self::STEPS; $i++) {
            // From a tenth of a per mille of the table to all of it, each step the same factor.
            $budget = $table->bytes() * 10 ** (-4 + (4 * $i) / self::STEPS);
            $set = new RollupSet($budget, $advice->within($budget, $keepBudgetUs, self::LEAST_US)->proposals());
            $last = end($sets);
            if ($set->savedUs() > $last->savedUs()) {
                $sets[$set->key()] ??= $set;
            }
        }

        return array_values($sets);
    }

    /**
     * @param  array<string, TableLayout>  $layouts
     * @return list<LookupProposal> most saved first
     */
    private static function lookupsOf(Estate $estate, array $layouts, EstateReader $reader, Cluster $cluster): array
    {
        $advisor = new LookupAdvisor($estate);
        $proposals = [];
        foreach ($layouts as $layout) {
            $sample = $layout->statistics->columns === [] ? $reader->source($cluster)?->sample($layout->name, Advisor::SAMPLE) : null;
            $proposal = $advisor->of($layout, $sample);
            if ($proposal !== null && $proposal->savedUs > self::LEAST_US) {
                $proposals[] = $proposal;
            }
        }
        usort($proposals, static fn (LookupProposal $a, LookupProposal $b): int => $b->savedUs <=> $a->savedUs);

        return $proposals;
    }
}
