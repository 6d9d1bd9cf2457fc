<?php

declare(strict_types=1);

namespace App\Metrics\Places;

use App\Estate\Connectors\MariaDbSource;
use App\Platform\Runs\Foreseen;
use PDOException;
use RuntimeException;

/**
 * What another server that keeps readings said instead of an answer. The message holds no value that is kept.
 */
final class PlaceError extends RuntimeException implements Foreseen
{
    public static function of(KeptPlace $place, PDOException $exception): self
    {
        return new self("The readings are kept in {$place->said()}, which cannot be used: ".MariaDbSource::clean($exception));
    }

    public function isStop(): bool
    {
        return false;
    }
}
