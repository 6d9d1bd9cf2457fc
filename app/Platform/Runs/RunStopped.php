<?php

declare(strict_types=1);

namespace App\Platform\Runs;

use RuntimeException;

final class RunStopped extends RuntimeException implements Foreseen
{
    public function __construct()
    {
        parent::__construct('Stopped by hand.');
    }

    public function isStop(): bool
    {
        return true;
    }
}
