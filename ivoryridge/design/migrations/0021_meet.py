from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('design', '0020_land'),
    ]

    operations = [
        migrations.AlterField(
            model_name='variation',
            name='kind',
            field=models.CharField(
                choices=[
                    ('stretch', 'stretch'), ('adjustment', 'adjustment'), ('change', 'change'), ('bare', 'bare'),
                    ('follow', 'follow'), ('led', 'led'), ('meet', 'meet'),
                ],
                max_length=12,
            ),
        ),
    ]
