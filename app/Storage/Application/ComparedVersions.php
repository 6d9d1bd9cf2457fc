<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Connectors\ReadAt;
use App\Estate\Connectors\TableKeeper;
use App\Ledger\Models\Change;
use App\Platform\Support\Clock;
use Fulcrion\Core\Catalog\HelperName;
use Fulcrion\Core\Storage\TableChangeKind;
use Fulcrion\Core\Storage\TableSteps;
use Fulcrion\Core\Text\Quantity;

/**
 * Which versions of the tables the statements of a change are measured at, before and after it. People go on loading
 * while a change is applied; answers can be compared only where both were given of the same rows.
 */
final class ComparedVersions
{
    public readonly ReadAt $before;

    public ReadAt $after;

    /** Where what the table answered before is asked once more, since rows came in before the change took hold. */
    public ?ReadAt $again = null;

    /** The table that is asked then. */
    public string $asked;

    private readonly string $old;

    /** @var array<string, int> versions right before the new table took the name */
    private array $swapped = [];

    private string $new = '';

    private readonly TableChangeKind $kind;

    public function __construct(private readonly TableKeeper $keeper, private readonly Change $change)
    {
        $this->before = $this->after = new ReadAt(Clock::microseconds(), $keeper->versions());
        $this->old = $keeper->identity($change->object);
        $this->asked = $change->object;
        $this->kind = TableChangeKind::from($change->kind);
    }

    /** Told while nobody else can write to the table, right before the new one takes its name. */
    public function swapping(): void
    {
        $this->swapped = $this->keeper->versions();
        $this->new = $this->keeper->identity(HelperName::table($this->change->object, 'new', $this->change->id));
    }

    /** Told when the change is through. */
    public function through(): void
    {
        $from = $this->before->versions[$this->old];
        if ($this->kind === TableChangeKind::Rebuild) {
            $this->after = $this->before->with([$this->new => $this->swapped[$this->new]]);
            // Nothing is written to the old table any more, so its versions end where the new one's begin.
            if ($this->written((string) $this->change->kept_table, $from) > 0) {
                $this->again = $this->before->with([$this->old => $this->swapped[$this->old]]);
                $this->asked = (string) $this->change->kept_table;
            }

            return;
        }
        if ($this->kind === TableChangeKind::Maintain) {
            $this->maintained($this->keeper->writes($this->change->object, $from), $from);
        } elseif ($this->kind === TableChangeKind::Rollups && $this->adds()) {
            // What was prepared is of the rows there are now, so it is these that are asked about.
            $now = $this->keeper->versions();
            $this->after = new ReadAt($this->before->nowUs, $now);
            if (array_intersect_key($now, $this->before->versions) !== array_intersect_key($this->before->versions, $now)) {
                $this->again = $this->after->withoutRollups();
            }
        }
    }

    /**
     * Told when the statements were measured.
     *
     * @return array<string, string> a condition of the proof
     */
    public function words(): array
    {
        $from = $this->before->versions[$this->old];
        $rows =
            $this->kind === TableChangeKind::Rebuild
                ? $this->written((string) $this->change->kept_table, $from) +
                    $this->written($this->change->object, $this->swapped[$this->new])
                : $this->written($this->change->object, $from);

        return $rows === 0
            ? []
            : [
                'meanwhile' => Quantity::count($rows).
                    ($rows === 1 ? ' row was' : ' rows were').
                    ' written or removed by others; the answers compared are of the same rows before and after',
            ];
    }

    /**
     * Maintenance makes a version that differs from the one before in where the rows are and not in which: the statements
     * are measured at the last of these before somebody wrote, and compared with the version before the first.
     *
     * @param  array<int, int>  $writes
     */
    private function maintained(array $writes, int $from): void
    {
        // Maintenance may be that old versions go.
        $from = isset($writes[$from]) ? $from : array_key_first($writes) ?? $from;
        [$last, $first, $upkept] = [$writes[$from] ?? 0, null, $from];
        foreach ($writes as $version => $written) {
            if ($version > $from && $written === $last) {
                $first ??= $version;
                $upkept = $version;
            } elseif ($version > $from && $first !== null) {
                break;
            }
            $last = $written;
        }
        $this->after = $this->before->with([$this->old => $upkept]);
        $untouched = $first === null ? $from : $first - 1;
        if ($untouched !== $this->before->versions[$this->old]) {
            $this->again = $this->before->with([$this->old => $untouched]);
        }
    }

    private function adds(): bool
    {
        return array_filter($this->change->sealed_steps, TableSteps::makesRollup(...)) !== [];
    }

    /** Rows written or removed since a version. */
    private function written(string $table, int $from): int
    {
        $writes = $this->keeper->writes($table, $from);

        return $writes === [] ? 0 : (int) end($writes) - (int) reset($writes);
    }
}
