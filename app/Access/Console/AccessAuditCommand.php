<?php

declare(strict_types=1);

namespace App\Access\Console;

use App\Access\Application\AccessAudit;
use Illuminate\Console\Command;

final class AccessAuditCommand extends Command
{
    protected $signature = 'access:audit {--detect : look at sampled values again}';

    protected $description = 'Looks the policy in force through: unused grants, stray labels, personal columns without one, and more';

    public function handle(AccessAudit $audit): int
    {
        $found = $audit->run((bool) $this->option('detect'));
        $this->line("{$found['open']} findings, {$found['new']} of them new; {$found['solved']} solved.");

        return self::SUCCESS;
    }
}
