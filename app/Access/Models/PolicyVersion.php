<?php

declare(strict_types=1);

namespace App\Access\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * @property int $number
 * @property int $made_us
 * @property string $made_by
 * @property string $comment
 * @property string $document JSON
 * @property int|null $restored number of the version it brought back
 * @property int|null $change_id
 */
final class PolicyVersion extends Model
{
    public $timestamps = false;

    public $incrementing = false;

    protected $table = 'policy_versions';

    protected $primaryKey = 'number';

    protected $guarded = [];
}
