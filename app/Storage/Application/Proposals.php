<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChosenStatements;
use App\Ledger\Changes\Inverse;
use App\Ledger\Changes\Proposal;
use App\Ledger\Changes\Refused;
use App\Ledger\Models\Finding;
use App\Telemetry\Workload\Advisor;
use App\Telemetry\Workload\EstateReader;
use Fulcrion\Core\Storage\Advice;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\Lookups\LookupAdvisor;
use Fulcrion\Core\Storage\Rebuild;
use Fulcrion\Core\Storage\Rollups\AggregateUse;
use Fulcrion\Core\Storage\Rollups\RollupAdvisor;
use Fulcrion\Core\Storage\Rollups\RollupProposal;
use Fulcrion\Core\Storage\Rules\RepeatedGroups;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableChangeKind;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\Workload;

/**
 * Turns advice and findings into changes to be proposed.
 */
final readonly class Proposals
{
    public function __construct(private EstateReader $reader, private Advisor $advisor, private Settings $settings)
    {
    }

    /**
     * @throws SourceError
     * @throws Refused
     */
    public function ofFinding(Finding $finding): Proposal
    {
        $cluster = $finding->cluster;
        [$table, $estate] = $this->table($cluster, $finding->subject()->table());
        $statements = $finding->sealed_statements['steps'] ?? [];
        $inverse = $finding->sealed_statements['inverse'] ?? [];
        if (in_array($finding->remedy, ['clustering', 'partitions', 'distribution'], true)) {
            return $this->ofAdvice($cluster, $table, $estate, $finding->remedy);
        }
        if ($finding->remedy === 'rollup') {
            [$thresholds] = $this->settings->of($cluster);
            $names = array_map(
                static fn (string $sql): string => (string) preg_replace('~^CREATE ROLLUP (\S+) AS .*~s', '$1', $sql),
                $statements,
            );
            $space = $thresholds['repeated-groups']['space'] ?? (new RepeatedGroups())->thresholds()['space'][0];

            return $this->rollups($table, $estate, $cluster, $space * $table->bytes(), $names);
        }
        if ($finding->remedy === 'lookup') {
            return $this->lookup($table, $estate, $cluster);
        }
        if ($statements === []) {
            throw new Refused(
                'This finding has no change that could be made for you: a person has to decide. Fix it by hand, or dismiss it with the '
                    .'reason.',
            );
        }
        [$kind, $title] = match ($finding->remedy) {
            'statistics' => [TableChangeKind::Statistics->value, "Collect statistics of {$table->name}"],
            'rewrite' => [
                TableChangeKind::Rewrite->value,
                'Say the filter of statement '.substr($finding->subject()->statement ?? '', 0, 8).' as a span',
            ],
            'compaction' => [TableChangeKind::Maintain->value, "Compact {$table->name}"],
            'expiry' => [TableChangeKind::Maintain->value, "Expire old versions of {$table->name}"],
            default => [TableChangeKind::Maintain->value, "Sweep files of {$table->name} that belong to nothing"],
        };
        $statement = $kind === TableChangeKind::Rewrite->value ? $finding->subject()->statement ?? '' : '';
        $workload = ChosenStatements::byLoad($estate->workload, $table->name);
        if ($statement !== '') {
            $workload = array_values(
                array_filter(
                    array_map(
                        static fn (StatementUse $s): ?array => $s->id === $statement
                            ? ['id' => $s->id, 'executions' => $s->executions]
                            : null,
                        $estate->workload->statements,
                    ),
                    static fn (?array $one): bool => $one !== null,
                ),
            );
        }
        $bytes = $kind === TableChangeKind::Rewrite->value ? 0.0 : (float) $table->bytes() * $table->rowFactor;

        return new Proposal(
            $table->name,
            $title,
            $kind,
            $statements,
            match (true) {
                $finding->remedy === 'compaction' => Inverse::version(),
                $inverse === [] => Inverse::none(),
                default => Inverse::statements($inverse),
            },
            $finding->queryUs(),
            $finding->spare_bytes,
            $kind === TableChangeKind::Rewrite->value ? 0.0 : $estate->reads($table)->rewriteUs($table->bytes()),
            $bytes,
            [],
            $workload,
            null,
            $statement,
        );
    }

    /**
     * @param  list<string>|null  $names rollups wanted; null for all that are chosen
     *
     * @throws SourceError
     * @throws Refused
     */
    public function ofRollups(Cluster $cluster, string $name, float $budgetBytes, ?array $names): Proposal
    {
        [$table, $estate] = $this->table($cluster, $name);

        return $this->rollups($table, $estate, $cluster, $budgetBytes, $names);
    }

    /**
     * @throws SourceError
     * @throws Refused
     */
    public function ofLookup(Cluster $cluster, string $name): Proposal
    {
        [$table, $estate] = $this->table($cluster, $name);

        return $this->lookup($table, $estate, $cluster);
    }

    /**
     * @param  list<string>|null  $names
     */
    private function rollups(TableLayout $table, Estate $estate, Cluster $cluster, float $budgetBytes, ?array $names): Proposal
    {
        $sample = $this->reader->source($cluster)?->sample($table->name, Advisor::SAMPLE);
        $chosen = array_values(
            array_filter(
                (new RollupAdvisor($estate))->of($table, $sample, $budgetBytes)->proposals(),
                static fn (RollupProposal $p): bool => $names === null || in_array($p->name, $names, true),
            ),
        );
        if ($chosen === []) {
            throw new Refused('These rollups would not pay any more: the table or its workload is not what it was.');
        }
        $served = array_merge(
            ...array_map(
                static fn (RollupProposal $p): array => array_map(
                    static fn (AggregateUse $use): string => $use->statement,
                    array_values($p->served),
                ),
                $chosen,
            ),
        );
        $bytes = array_sum(array_map(static fn (RollupProposal $p): float => $p->candidate->bytes, $chosen)) * $table->rowFactor;

        return new Proposal(
            $table->name,
            count($chosen) === 1 ? "Keep the rollup {$chosen[0]->name}" : 'Keep '.count($chosen)." rollups of {$table->name}",
            TableChangeKind::Rollups->value,
            array_map(static fn (RollupProposal $p): string => $p->create(), $chosen),
            Inverse::statements(array_map(static fn (RollupProposal $p): string => $p->drop(), $chosen)),
            array_sum(array_map(static fn (RollupProposal $p): float => $p->savedUs, $chosen)),
            0.0,
            $estate->reads($table)->rewriteUs($table->bytes()) / 2,
            $bytes,
            [],
            ChosenStatements::byLoad(self::only($estate, $served), $table->name),
        );
    }

    private function lookup(TableLayout $table, Estate $estate, Cluster $cluster): Proposal
    {
        $p =
            (new LookupAdvisor($estate))->of($table, $this->reader->source($cluster)?->sample($table->name, Advisor::SAMPLE)) ??
            throw new Refused('A lookup would not pay any more: the table or its workload is not what it was.');

        return new Proposal(
            $table->name,
            "Keep the lookup {$p->name()}",
            TableChangeKind::Rollups->value,
            [$p->create()],
            Inverse::statements([$p->drop()]),
            $p->savedUs,
            $p->savedBytes * $table->rowFactor,
            0.0,
            $p->bytes * $table->rowFactor,
            [],
            ChosenStatements::byLoad(self::only($estate, $p->served), $table->name),
        );
    }

    /**
     * @param  list<string>  $statements
     */
    private static function only(Estate $estate, array $statements): Workload
    {
        return new Workload(
            array_values(
                array_filter($estate->workload->statements, static fn (StatementUse $s): bool => in_array($s->id, $statements, true)),
            ),
        );
    }

    /**
     * @throws SourceError
     * @throws Refused
     */
    public function ofKind(Cluster $cluster, string $name, string $kind): Proposal
    {
        [$table, $estate] = $this->table($cluster, $name);

        return $this->ofAdvice($cluster, $table, $estate, $kind);
    }

    private function ofAdvice(Cluster $cluster, TableLayout $table, Estate $estate, string $kind): Proposal
    {
        $source = $this->reader->source($cluster) ?? throw new Refused("{$cluster->name} does not tell how its tables lie.");
        $advice = $this->advisor->one($source, $estate, $table, $kind);
        if ($advice === null || ! $advice->worthIt) {
            throw new Refused('There is nothing to gain by that any more: the table or its workload is not what it was.');
        }
        $workload = ChosenStatements::byLoad($estate->workload, $table->name);

        return match (true) {
            $advice->definition !== null => $this->rebuild($table, $advice, $workload),
            $kind === 'statistics' => new Proposal(
                $table->name,
                "Collect statistics of {$table->name}",
                TableChangeKind::Statistics->value,
                $advice->statements,
                Inverse::none(),
                $advice->savedUs,
                $advice->savedBytes,
                $advice->costUs,
                $advice->costBytes,
                $advice->worse,
                $workload,
            ),
            default => new Proposal(
                $table->name,
                $advice->advice,
                TableChangeKind::Maintain->value,
                $advice->statements,
                Inverse::version(),
                $advice->savedUs,
                $advice->savedBytes,
                $advice->costUs,
                $advice->costBytes,
                $advice->worse,
                $workload,
            ),
        };
    }

    /**
     * @param  list<array{id: string, executions: float}>  $workload
     */
    private function rebuild(TableLayout $table, Advice $advice, array $workload): Proposal
    {
        assert($advice->definition !== null);
        $rebuild = new Rebuild($advice->definition, $table->definition, array_map(strval(...), array_keys($table->statistics->columns)));

        return new Proposal(
            $table->name,
            $advice->advice,
            TableChangeKind::Rebuild->value,
            [],
            Inverse::layout(),
            $advice->savedUs,
            $advice->savedBytes,
            $advice->costUs,
            $advice->costBytes,
            $advice->worse,
            $workload,
            $rebuild,
        );
    }

    /**
     * @return array{TableLayout, Estate}
     */
    private function table(Cluster $cluster, string $name): array
    {
        $layouts = $this->reader->layouts($cluster);
        $table = $layouts[$name] ?? throw new Refused("There is no table {$name} on {$cluster->name} any more.");

        return [$table, $this->reader->estate($cluster, $layouts)];
    }
}
