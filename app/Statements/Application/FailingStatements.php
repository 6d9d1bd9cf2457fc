<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Platform\Support\MomentStyle;
use App\Platform\Support\Sql;
use App\Telemetry\Store\ErrorTexts;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * Statements that fail more often than they succeed: nobody waits long for them, so no ranking by time shows them.
 */
final class FailingStatements
{
    private const DAYS = 2;

    private const LEAST_RUNS = 20;

    private const SHARE = 0.5;

    private const MOST = 5;

    /**
     * @param  int  $to end of the last day, in seconds
     * @return list<Anomaly> most failures first
     */
    public static function of(StatementScope $scope, int $to): array
    {
        $from = $to - self::DAYS * 86_400;
        $rows = DB::select(
            'SELECT s.id, s.fingerprint, s.text, t.runs, t.failed FROM (
                SELECT statement_id, SUM(executions) AS runs, SUM(errors + timed_out) AS failed FROM load_day
                WHERE cluster_id = ? AND bucket_at >= ? AND bucket_at < ? GROUP BY statement_id
                HAVING runs >= ? AND failed >= ? * runs ORDER BY failed DESC LIMIT '.self::MOST.'
            ) t JOIN statements s ON s.id = t.statement_id ORDER BY t.failed DESC, s.id',
            [$scope->cluster->id, $from, $to, self::LEAST_RUNS, self::SHARE],
        );
        $texts = ErrorTexts::of($scope->cluster, $from, array_column($rows, 'fingerprint'));
        $found = [];
        foreach ($rows as $row) {
            $said = array_key_first($texts[$row->fingerprint] ?? []);
            $found[] = new Anomaly(
                (int) $row->failed === (int) $row->runs ? 'always fails' : 'mostly fails',
                'act',
                $row->fingerprint,
                null,
                Sql::line($row->text, 200),
                sprintf(
                    'Failed in %s of %s runs since %s%s.',
                    Quantity::count((int) $row->failed),
                    Quantity::count((int) $row->runs),
                    onUtc($from, MomentStyle::Weekday),
                    $said === null ? '' : ', mostly with “'.rtrim(mb_strcut((string) $said, 0, 160), '.').'”',
                ),
                0.0,
                'last 48 hours',
            );
        }

        return $found;
    }
}
