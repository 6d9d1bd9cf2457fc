<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Connectors\SourceError;
use App\Estate\Connectors\TableKeeper;
use App\Ledger\Changes\ChangeAction;
use App\Ledger\Changes\ChangeExecutor;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Changes\InverseKind;
use App\Ledger\Changes\Proposal;
use App\Ledger\Findings\FindingState;
use App\Ledger\Models\Change;
use App\Platform\Runs\Progress;
use App\Platform\Support\Clock;
use Closure;
use Fulcrion\Core\Catalog\HelperName;
use Fulcrion\Core\Proofs\Proof;
use Fulcrion\Core\Proofs\ProofLine;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Storage\TableChangeKind;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableSteps;
use Fulcrion\Core\Text\Quantity;

/**
 * Changes how tables are stored. Whatever goes wrong, the table is left as it was: a new table takes the name only when it is
 * whole and holds the same rows.
 */
final readonly class TableExecutor implements ChangeExecutor
{
    private const GRACE_US = 7 * 86_400_000_000;

    public function __construct(private TableMeasurement $measurement, private TableRehearsal $rehearsal)
    {
    }

    public function prepare(Change $change, Proposal $proposal): void
    {
        if ($proposal->rebuild === null) {
            return;
        }
        // Its own number keeps the names of two changes of one table apart.
        [$kept, $undone, $built] = [self::beside($change, 'kept'), self::beside($change, 'undone'), self::beside($change, 'new')];
        $change->update([
            'kept_table' => $kept,
            'sealed_steps' => [
                ...TableSteps::build($proposal->rebuild->definition, $change->object, $built, $proposal->rebuild->statistics),
                TableSteps::swap($change->object, $kept, $built),
            ],
            'sealed_inverse' => [TableSteps::swap($change->object, $undone, $kept), TableSteps::drop($undone)],
        ]);
    }

    public function rehearse(Change $change, string $by, Progress $progress): void
    {
        $this->rehearsal->run($change, $by, $progress);
    }

    public function apply(Change $change, string $by, Progress $progress): void
    {
        $keeper = $this->measurement->keeper($change->cluster);
        $stop = $progress->stop();
        $statements = $this->measurement->statements($change);
        $versions = new ComparedVersions($keeper, $change);
        $before = $this->measurement->all($keeper, $statements, $progress, $stop, 'before', 0.02, 0.3, $versions->before);
        $writing = $this->measurement->writing($change);
        $copies = array_map(
            static fn (string $name): string => TableMeasurement::schema($change).".{$name}",
            ['as_it_was', 'as_it_became'],
        );
        if ($writing !== []) {
            $this->measurement->copy($keeper, $change, $copies[0], $stop);
        }
        $bytes = $this->measurement->bytes($change->cluster, $change->object);
        $change->update(['version_before' => $keeper->version($change->object)]);
        if ($change->kind === TableChangeKind::Rebuild->value) {
            $this->rebuild($change, $keeper, $versions, $progress, $stop);
        } else {
            $this->maintain($change, $keeper, $progress, $stop);
        }
        $this->applied($change, $by, $keeper);
        $versions->through();
        $after = $this->measurement->all(
            $keeper,
            $statements,
            $progress,
            $stop,
            'after',
            0.65,
            $versions->again === null ? 0.98 : 0.85,
            $versions->after,
        );
        $answers = $before;
        if ($versions->again !== null) {
            // Rows came in between: what the table answered is asked again, of the very rows the new figures are of.
            $asked = array_map(
                static fn (array $one): array => [
                    'sql' => Reading::with($one['sql'], $change->object, $versions->asked, $one['schema'], $change->cluster->dialect),
                ] + $one,
                $statements,
            );
            $answers = $this->measurement->all($keeper, $asked, $progress, $stop, 'as before', 0.85, 0.98, $versions->again);
        }
        $lines = [];
        foreach ($statements as $i => $statement) {
            $lines[] = new ProofLine(
                $statement['id'],
                $statement['text'],
                $statement['executions'],
                $before[$i]->answering($answers[$i]),
                $after[$i],
            );
        }
        if ($writing !== []) {
            $progress->tell('statements that write, on copies', 0.98);
            $this->measurement->copy($keeper, $change, $copies[1], $stop);
            array_push($lines, ...$this->measurement->written($keeper, $change, $writing, $copies[0], $copies[1], $stop));
            $keeper->dropSchema(TableMeasurement::schema($change));
        }
        $this->measurement->keep(
            $change,
            'applied',
            new Proof($lines),
            $by,
            $change->cluster,
            [
                'where' => "{$change->cluster->name}, on the table itself",
                'rows' => Quantity::count($this->measurement->layout($change->cluster, $change->object)?->rows() ?? 0),
                'each statement' => 'once cold (nothing in memory), once warm, right before and right after'.
                    ($writing === [] ? '' : '; writes on copies of the table, several times'),
                'contents' => match (true) {
                    $change->checksum_before === null => 'not touched',
                    $change->checksum_before === $change->checksum_after => "equal, checksum {$change->checksum_after}",
                    default => 'rows came in meanwhile',
                },
            ] +
                $versions->words() +
                TableMeasurement::stored($bytes, $this->measurement->bytes($change->cluster, $change->object)),
        );
    }

    public function undo(Change $change, string $by, Progress $progress): void
    {
        $keeper = $this->measurement->keeper($change->cluster);
        $stop = $progress->stop();
        if ($change->inverse === InverseKind::Layout) {
            $keeper->holding($change->object, fn () => $this->layOutAsBefore($change, $keeper, $progress, $stop));
        } else {
            foreach ($change->sealed_inverse as $sql) {
                $progress->tell(StepWords::of($sql), 0.5);
                $keeper->apply($sql, $stop);
            }
        }
        $change->update(['grace_until_us' => null]);
        $change->finding?->update(['state' => FindingState::Open, 'changed_us' => Clock::microseconds(), 'solved_us' => null]);
    }

    public function withdraw(Change $change, ChangeAction $action): string
    {
        if ($action === ChangeAction::Rehearse) {
            return '';
        }
        $this->clear($change, $this->measurement->keeper($change->cluster));

        return $change->state === ChangeState::Applied && $action === ChangeAction::Apply
            ? 'The change itself was through; only its proof is missing.'
            : 'The table is as it was.';
    }

    public function recover(Change $change, ChangeAction $action): ?string
    {
        if ($action === ChangeAction::Rehearse) {
            $this->rehearsal->clear($change);

            return 'The worker was killed. The rehearsal was cleared away; start it again.';
        }
        $keeper = $this->measurement->keeper($change->cluster);
        $rebuilds = $change->kind === TableChangeKind::Rebuild->value;
        if ($action === ChangeAction::Apply) {
            // The swap is one act: if the kept table is there, the new one has the name.
            if ($rebuilds && $change->kept_table !== null && $keeper->has($change->kept_table)) {
                $this->applied($change, $change->approved_by ?? 'system', $keeper);

                return null;
            }
            $this->clear($change, $keeper);
        } else {
            $this->clear($change, $keeper);
            if ($rebuilds && $change->kept_table !== null && ! $keeper->has($change->kept_table)) {
                return null;
            }
        }

        return 'The worker was killed. '.
            ($rebuilds
                ? 'What it had begun was cleared away: the table is as it was.'
                : 'Each of its statements was run wholly or not at all; rehearse it again to see what is left to do.');
    }

    /**
     * @param  Closure(): bool  $stop
     */
    private function rebuild(Change $change, TableKeeper $keeper, ComparedVersions $versions, Progress $progress, Closure $stop): void
    {
        $steps = $change->sealed_steps;
        $built = self::beside($change, 'new');
        $keeper->apply(TableSteps::drop($built), $stop);
        // Loads wait while the rows are copied, so none of theirs can be lost.
        $keeper->holding($change->object, static function () use ($change, $keeper, $steps, $built, $stop, $versions, $progress): void {
            foreach ($steps as $i => $sql) {
                $progress->tell(StepWords::of($sql), 0.3 + (0.35 * $i) / count($steps), $i);
                if ($i === count($steps) - 1) {
                    [$old, $new] = [$keeper->checksum($change->object), $keeper->checksum($built)];
                    $change->update(['checksum_before' => $old, 'checksum_after' => $new]);
                    if ($old !== $new) {
                        throw new SourceError("The new table does not hold the same rows ({$old}, {$new}).");
                    }
                    $versions->swapping();
                }
                $keeper->apply($sql, $stop);
            }
        });
    }

    /**
     * @param  Closure(): bool  $stop
     */
    private function maintain(Change $change, TableKeeper $keeper, Progress $progress, Closure $stop): void
    {
        $steps = $change->sealed_steps;
        $maintains = $change->kind === TableChangeKind::Maintain->value;
        $old = $maintains ? $keeper->checksum($change->object) : null;
        foreach ($steps as $i => $sql) {
            $progress->tell(StepWords::of($sql), 0.3 + (0.35 * $i) / count($steps), $i);
            $keeper->apply($sql, $stop);
        }
        $new = $maintains ? $keeper->checksum($change->object) : null;
        $change->update(['checksum_before' => $old, 'checksum_after' => $new]);
        if ($change->inverse === InverseKind::Version) {
            // Where somebody wrote in between, no version is only the one before this change.
            $back = 'MAINTAIN TABLE '.TableSteps::path($change->object)." WITH (action = revert, version = {$change->version_before})";
            $change->update(
                $keeper->version($change->object) === (int) $change->version_before + 1
                    ? ['inverse' => InverseKind::Statements, 'sealed_inverse' => [$back]]
                    : ['inverse' => InverseKind::None],
            );
        }
    }

    private function applied(Change $change, string $by, TableKeeper $keeper): void
    {
        $change->enter(ChangeState::Applied, $by);
        $change->update([
            'version_after' => $keeper->version($change->object),
            'grace_until_us' => $change->kind === TableChangeKind::Rebuild->value ? Clock::microseconds() + self::GRACE_US : null,
        ]);
    }

    /**
     * @param  Closure(): bool  $stop
     */
    private function layOutAsBefore(Change $change, TableKeeper $keeper, Progress $progress, Closure $stop): void
    {
        $kept = (string) $change->kept_table;
        $back = $kept;
        if (! $keeper->has($kept) || $keeper->version($change->object) !== $change->version_after) {
            // Rows came, or the old table is gone: its layout is made again from the rows there are now.
            $back = self::beside($change, 'back');
            $keeper->apply(TableSteps::drop($back), $stop);
            $definition = TableDefinition::fromArray(
                $change->expected['before'] ?? throw new SourceError('How the table was laid out before is not known.'),
            );
            $statistics = array_map(
                strval(...),
                array_keys($this->measurement->layout($change->cluster, $change->object)->statistics->columns ?? []),
            );
            foreach (TableSteps::build($definition, $change->object, $back, $statistics) as $sql) {
                $progress->tell(StepWords::of($sql), 0.4);
                $keeper->apply($sql, $stop);
            }
        }
        $progress->tell('comparing the contents', 0.7);
        [$now, $then] = [$keeper->checksum($change->object), $keeper->checksum($back)];
        if ($now !== $then) {
            throw new SourceError("The old layout does not hold the same rows ({$now}, {$then}). Nothing was changed.");
        }
        $change->update(['checksum_after' => $then]);
        $undone = self::beside($change, 'undone');
        $keeper->apply(TableSteps::swap($change->object, $undone, $back), $stop);
        $keeper->apply(TableSteps::drop($undone), $stop);
        if ($back !== $kept) {
            $keeper->apply(TableSteps::drop($kept), $stop);
        }
    }

    /** Takes away what was half built. */
    private function clear(Change $change, TableKeeper $keeper): void
    {
        $keeper->dropSchema(TableMeasurement::schema($change));
        foreach (['new', 'back', 'undone'] as $what) {
            $table = self::beside($change, $what);
            if ($keeper->has($table)) {
                $keeper->apply(TableSteps::drop($table), static fn (): bool => false);
            }
        }
    }

    /**
     * @param  'kept'|'new'|'back'|'undone'  $what
     */
    private static function beside(Change $change, string $what): string
    {
        return HelperName::table($change->object, $what, $change->id);
    }
}
