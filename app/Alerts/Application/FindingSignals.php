<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Estate\Models\Cluster;
use App\Metrics\Signals\Signal;
use App\Metrics\Signals\SignalSource;
use Fulcrion\Core\Time\Steps;
use Illuminate\Support\Facades\DB;

/**
 * How many findings were open, those of incidents aside.
 */
final readonly class FindingSignals implements SignalSource
{
    private const URGENT = 'urgent';

    private const OPEN = 'open';

    public function prefix(): string
    {
        return 'finding';
    }

    public function signals(Cluster $cluster): array
    {
        return [
            new Signal('finding:'.self::URGENT, 'Findings somebody suffers from', '', 1.0, 1.0, false),
            new Signal('finding:'.self::OPEN, 'Findings that are open', '', 1.0, 20.0, false),
        ];
    }

    public function delaySeconds(Cluster $cluster): int
    {
        return 0;
    }

    public function values(Cluster $cluster, string $key, int $from, int $to, int $step): array
    {
        if (! in_array($key, [self::URGENT, self::OPEN], true)) {
            return [];
        }
        $query = DB::table('findings')->where('cluster_id', $cluster->id)->where('source', '!=', IncidentFindings::SOURCE)
            ->where('first_us', '<', $to * 1_000_000)
            ->where(static fn ($some) => $some->whereNull('solved_us')->orWhere('solved_us', '>=', $from * 1_000_000));
        if ($key === self::URGENT) {
            $query->where('urgent', true);
        }
        $spans = [];
        foreach ($query->get(['first_us', 'solved_us']) as $row) {
            // One that was solved was open in that second.
            $spans[] = [intdiv((int) $row->first_us, 1_000_000),
                $row->solved_us === null ? null : intdiv((int) $row->solved_us, 1_000_000) + 1];
        }

        return ['' => Steps::counts($spans, $from, $to, $step)];
    }
}
