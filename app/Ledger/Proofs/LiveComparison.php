<?php

declare(strict_types=1);

namespace App\Ledger\Proofs;

use App\Ledger\Models\Change;
use App\Platform\Support\Clock;
use App\Telemetry\Store\Sums;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Statistics\MannWhitney;
use Fulcrion\Core\Time\Window;
use Illuminate\Support\Facades\DB;

/**
 * The executions people and programs really ran in the week before a change and since.
 */
final readonly class LiveComparison
{
    private const DAYS = 7;

    public function __construct(private Sums $sums)
    {
    }

    /**
     * @return list<array{id: string, text: string, test: MannWhitney, before: list<int|null>,
     *     after: list<int|null>}> quartiles of the durations
     */
    public function of(Change $change): array
    {
        $applied = intdiv((int) $change->applied_us, 1_000_000);
        // Executions are kept by five minutes; those in which the change was made belong to neither side.
        $edge = $applied - ($applied % 300);
        $before = new Window($edge - self::DAYS * 86_400, $edge);
        $now = Clock::seconds();
        $until = min($now - ($now % 300) + 300, $edge + 300 + self::DAYS * 86_400);
        $statements = DB::table('statements')
            ->whereIn('fingerprint', array_column($change->workload, 'id'))
            ->get(['id', 'fingerprint', 'text'])
            ->keyBy('id');
        $ids = array_values($statements->keys()->map(intval(...))->all());
        $first = $this->sums->sketches($change->cluster_id, $before, $ids);
        $second = $until > $edge + 300 ? $this->sums->sketches($change->cluster_id, new Window($edge + 300, $until), $ids) : [];
        $rows = [];
        foreach ($statements as $id => $statement) {
            $a = $first[(int) $id] ?? LatencySketch::empty();
            $b = $second[(int) $id] ?? LatencySketch::empty();
            $rows[] = [
                'id' => (string) $statement->fingerprint,
                'text' => (string) $statement->text,
                'test' => MannWhitney::of($a->counts(), $b->counts()),
                'before' => $a->quantiles([0.25, 0.5, 0.75]),
                'after' => $b->quantiles([0.25, 0.5, 0.75]),
            ];
        }
        usort(
            $rows,
            static fn (array $x, array $y): int => [$y['test']->verdict() === 'worse', $y['test']->after] <=> [
                $x['test']->verdict() === 'worse',
                $x['test']->after,
            ],
        );

        return $rows;
    }
}
