<?php

declare(strict_types=1);

namespace App\Alerts\Console;

use App\Alerts\Application\AlertJudge;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class JudgeAlertsCommand extends Command
{
    protected $signature = 'alerts:judge';

    protected $description = 'Holds alerts against what came in, and tells of incidents';

    public function handle(AlertJudge $judge): int
    {
        $this->line("{$judge->judge(Clock::seconds())} alerts were judged.");

        return self::SUCCESS;
    }
}
