<?php

declare(strict_types=1);

namespace App\Limits\Console;

use App\Limits\Application\LimitFindings;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class CheckLimitsCommand extends Command
{
    protected $signature = 'limit:check';

    protected $description = 'Takes up what was used elsewhere of each limit, and does what is to be done where a share is reached';

    public function handle(LimitFindings $limits): int
    {
        $letters = $limits->check(Clock::seconds());
        $this->line($letters === 1 ? '1 letter went into the outbox.' : "{$letters} letters went into the outbox.");

        return self::SUCCESS;
    }
}
