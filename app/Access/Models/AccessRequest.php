<?php

declare(strict_types=1);

namespace App\Access\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * @property int $id
 * @property int $asked_us
 * @property int|null $asker_id
 * @property string $asked_by
 * @property string $subject person:NAME
 * @property string $object path of a table, or product:NAME
 * @property string $reason
 * @property string|null $until
 * @property string $state open, approved or declined
 * @property string|null $decided_by
 * @property int|null $decided_us
 * @property string|null $answer
 */
final class AccessRequest extends Model
{
    public $timestamps = false;

    protected $table = 'access_requests';

    protected $guarded = ['id'];
}
