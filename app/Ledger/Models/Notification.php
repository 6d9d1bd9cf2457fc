<?php

declare(strict_types=1);

namespace App\Ledger\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * @property int $id
 * @property int $watcher_id
 * @property int|null $finding_id
 * @property string $kind mail or webhook
 * @property string $recipient
 * @property string $subject
 * @property string $body
 * @property string $state waiting, sending, sent, kept where nothing can be sent, failed, held or digested
 * @property string|null $error
 * @property int $tries
 * @property int $made_us
 * @property int|null $sent_us
 */
final class Notification extends Model
{
    public $timestamps = false;

    protected $table = 'notifications';

    protected $guarded = ['id'];
}
