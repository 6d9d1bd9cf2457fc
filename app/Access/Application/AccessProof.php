<?php

declare(strict_types=1);

namespace App\Access\Application;

use Fulcrion\Core\Access\Change\Replayed;
use Fulcrion\Core\Access\Change\Shift;

/**
 * What a proof of access keeps: who sees what otherwise, and what becomes of statements that are really run.
 */
final readonly class AccessProof
{
    private const KEPT = 400;

    /**
     * @param  list<Shift>  $shifts
     * @param  array{changed: list<Replayed>, executions: int, statements: int, same: array<string, int>}  $replay
     * @return array{shifts: list<array<string, mixed>>, outcomes: array<string, array{int, int}>, changed: list<array<string, mixed>>}
     */
    public static function of(array $shifts, array $replay): array
    {
        $outcomes = array_map(static fn (int $executions): array => [$executions, $executions], $replay['same']);
        foreach ($replay['changed'] as $one) {
            [$before, $after] = $outcomes[$one->before] ?? [0, 0];
            $outcomes[$one->before] = [$before + $one->asked->executions, $after];
            [$before, $after] = $outcomes[$one->after] ?? [0, 0];
            $outcomes[$one->after] = [$before, $after + $one->asked->executions];
        }
        ksort($outcomes);

        return [
            'outcomes' => $outcomes,
            'shifts' => array_map(
                static fn (Shift $s): array => [
                    'people' => count($s->people),
                    'who' => implode(', ', array_map(static fn (string $p): string => substr($p, 7), array_slice($s->people, 0, 12))).
                        (count($s->people) > 12 ? ' and '.(count($s->people) - 12).' more' : ''),
                    'places' => $s->places(),
                    'objects' => count($s->objects),
                    'kind' => $s->kind,
                    'before' => $s->before,
                    'after' => $s->after,
                    'gains' => $s->gains,
                ],
                array_slice($shifts, 0, self::KEPT),
            ),
            'changed' => array_map(
                static fn (Replayed $r): array => [
                    'statement' => $r->asked->statement,
                    'cluster' => $r->asked->cluster,
                    'who' => substr($r->asked->subject, 7),
                    'executions' => $r->asked->executions,
                    'before' => $r->before,
                    'after' => $r->after,
                    'why' => $r->after === 'refused' ? $r->sentence : '',
                ],
                array_slice($replay['changed'], 0, self::KEPT),
            ),
        ];
    }
}
