<?php

declare(strict_types=1);

namespace App\Platform\Runs;

use Throwable;

/**
 * An end of a run that is nobody's mistake in the code: its message is meant for whoever asked for the run.
 */
interface Foreseen extends Throwable
{
    /** Whether a person or a limit ended it. */
    public function isStop(): bool;
}
