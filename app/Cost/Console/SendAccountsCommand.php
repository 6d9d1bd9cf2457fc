<?php

declare(strict_types=1);

namespace App\Cost\Console;

use App\Cost\Application\Accounts;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class SendAccountsCommand extends Command
{
    protected $signature = 'account:send';

    protected $description = 'Puts the statements of account that are due into the outbox';

    public function handle(Accounts $accounts): int
    {
        $sent = $accounts->due(Clock::seconds());
        $this->line($sent === 1 ? '1 statement of account went into the outbox.' : "{$sent} statements of account went into the outbox.");

        return self::SUCCESS;
    }
}
