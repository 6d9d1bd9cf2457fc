<?php

declare(strict_types=1);

namespace App\Usage\Http;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Platform\Support\Export;
use App\Telemetry\Usage\UsageAxis;
use App\Usage\Application\UsageQuery;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use InvalidArgumentException;
use Symfony\Component\HttpFoundation\Response;

/**
 * Use of a cluster, for programs that hold a token for it.
 */
final readonly class UsageApiController
{
    public const PAGE = 1_000;

    public const ABILITY = 'usage:read';

    public function __invoke(Request $request): Response
    {
        $cluster = $request->user('sanctum');
        if (! ($cluster instanceof Cluster) || ! $cluster->tokenCan(self::ABILITY)) {
            return response()->json(['error' => 'This token may not read use. Make one that may on the page of its cluster.'], 403);
        }
        $said = static fn (string $name, string $default): string => is_string($request->query($name)) ? $request->query($name) : $default;
        try {
            $days = self::days($said('from', ''), $said('to', ''));
            $by = self::by($said('by', 'team'), $cluster);
        } catch (InvalidArgumentException $error) {
            return response()->json(['error' => $error->getMessage()], 422);
        }
        $page = max(1, (int) $said('page', '1'));
        $query = new UsageQuery($days, $by, $cluster);
        $rows = $query->rows(($page - 1) * self::PAGE, self::PAGE);
        if ($said('format', 'json') === 'csv') {
            return Export::table('csv', 'usage', $rows);
        }

        return $this->json($request, $query, $cluster, $rows, $page);
    }

    /**
     * @param  list<array<string, int|string>>  $rows
     */
    private function json(Request $request, UsageQuery $query, Cluster $cluster, array $rows, int $page): JsonResponse
    {
        $count = $query->count();
        $pages = max(1, (int) ceil($count / self::PAGE));

        return response()->json([
            'cluster' => $cluster->slug,
            'from' => gmdate('Y-m-d', $query->days->from),
            'to' => gmdate('Y-m-d', $query->days->to - 1),
            'by' => array_map(static fn (UsageAxis $axis): string => $axis->label(), $query->by),
            'page' => $page,
            'pages' => $pages,
            'count' => $count,
            'rows' => $rows,
            'next' => $page < $pages ? $request->fullUrlWithQuery(['page' => $page + 1]) : null,
        ]);
    }

    /**
     * @throws InvalidArgumentException
     */
    private static function days(string $from, string $to): Days
    {
        $now = app(Calendar::class)->shown(Clock::seconds());
        $text = match (true) {
            $from === '' && $to === '' => 'last 7 days',
            $to === '' => $from.' to '.gmdate('Y-m-d', $now),
            default => "{$from} to {$to}",
        };
        try {
            return Days::parse($text, $now);
        } catch (InvalidArgumentException) {
            throw new InvalidArgumentException('from and to are days as 2026-11-20, the first not after the last.');
        }
    }

    /**
     * @return non-empty-list<UsageAxis>
     *
     * @throws InvalidArgumentException
     */
    private static function by(string $text, Cluster $cluster): array
    {
        $names = array_map(static fn (UsageAxis $axis): string => $axis->label(), UsageAxis::all());
        $by = [];
        foreach (explode(',', $text) as $name) {
            $axis = UsageAxis::labelled(trim($name));
            if ($axis === null || isset($by[$axis->key])) {
                throw new InvalidArgumentException(
                    'by is one to three different ones of '.implode(', ', $names).", with commas; \"{$text}\" is not.",
                );
            }
            $by[$axis->key] = $axis;
        }
        if (count($by) > 3) {
            throw new InvalidArgumentException('by has three fields at most.');
        }

        return array_values($by);
    }
}
