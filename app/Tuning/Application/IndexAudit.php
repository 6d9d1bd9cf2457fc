<?php

declare(strict_types=1);

namespace App\Tuning\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use Fulcrion\Core\Storage\Indexes\Index;
use Fulcrion\Core\Storage\Indexes\IndexAdvisor;
use Fulcrion\Core\Storage\Indexes\IndexedTable;
use Fulcrion\Core\Text\Quantity;

/**
 * Indexes of live servers that are there for nothing, a finding each table. Asks for definitions only, and for no row.
 */
final readonly class IndexAudit
{
    public const SOURCE = 'indexes';

    public function __construct(private Clusters $clusters, private Findings $findings)
    {
    }

    public function of(Cluster $cluster): void
    {
        $source = $this->clusters->as(Actor::system(SystemActor::Audit, 'indexes that are there for nothing'))->indexes($cluster);
        if ($source === null) {
            return;
        }
        try {
            $needless = (new IndexAdvisor($source->tables(), $cluster->dialect))->needless($source->countedSeconds());
        } catch (SourceError) {
            // What is known of it stays known until it answers.
            return;
        }
        $byTable = [];
        foreach ($needless as $one) {
            $byTable[$one['table']->name][] = $one;
        }
        $this->findings->reconcile($cluster, self::SOURCE, array_map(self::report(...), array_values($byTable)));
    }

    /**
     * @param  non-empty-list<array{table: IndexedTable, index: Index, why: string}>  $needless of one table
     */
    private static function report(array $needless): Reported
    {
        $table = $needless[0]['table'];
        $bytes = array_sum(array_map(static fn (array $one): float => $table->indexBytes($one['index']), $needless));
        $evidence = [];
        foreach ($needless as $one) {
            $evidence[] = new Evidence($one['index']->name.' ('.implode(', ', $one['index']->columns).')', $one['why']);
        }
        $first = $needless[0];

        return new Reported(
            'needless-index',
            FindingSubject::item($table->name),
            Severity::Watch,
            count($needless) === 1
                ? "The index {$first['index']->name} of {$table->name} is there for nothing: {$first['why']}"
                : count($needless)." indexes of {$table->name} are there for nothing",
            [
                ...$evidence,
                new Evidence('their space, modelled', Quantity::bytes($bytes)),
                Evidence::remedy('Drop them: each row that is written writes them too. The page Indexes proposes it, with '
                    .'the way back.'),
            ],
            Weight::timeOrBytes(0.0, $bytes),
            '',
            spareBytes: $bytes,
        );
    }
}
