<?php

declare(strict_types=1);

namespace App\Metrics\Places;

use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Throwable;

/**
 * Moves readings while people work on.
 */
final class MovePlace implements ShouldQueue
{
    use Queueable;

    private const LONGEST = 500;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $placeId)
    {
    }

    public function handle(PlaceMove $move): void
    {
        $place = KeptPlace::query()->find($this->placeId);
        if (! $place instanceof KeptPlace) {
            return;
        }
        try {
            $move->move($place);
        } catch (PlaceError $error) {
            self::say($place->id, $error->getMessage());
        } catch (Throwable $error) {
            self::say($place->id, 'The move broke off.');
            throw $error;
        }
    }

    private static function say(int $placeId, string $error): void
    {
        KeptPlace::query()->whereKey($placeId)->update(['error' => mb_strcut($error, 0, self::LONGEST)]);
    }
}
