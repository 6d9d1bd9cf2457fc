<?php

declare(strict_types=1);

namespace App\Ledger\Console;

use App\Ledger\Notifications\Dispatcher;
use Illuminate\Console\Command;

final class NotifyCommand extends Command
{
    protected $signature = 'ledger:post {--digest : make letters of what was held for digests first}';

    protected $description = 'Sends what waits in the outbox';

    public function handle(Dispatcher $dispatcher): int
    {
        if ($this->option('digest')) {
            $dispatcher->digest();
        }
        $dispatcher->send();

        return self::SUCCESS;
    }
}
